import { DataTypes, type ModelAttributeColumnOptions } from 'sequelize';
import type { Migration } from '../database.ts';

const text = (allowNull = false): ModelAttributeColumnOptions => ({ type: DataTypes.TEXT, allowNull });
const whole = (allowNull = false): ModelAttributeColumnOptions => ({ type: DataTypes.BIGINT, allowNull });

export const DESK_MIGRATIONS: readonly Migration[] = [
  {
    name: '2026-03-01-activity',
    up: async ({ context }) => {
      await context.createTable('activity', {
        seq: { type: DataTypes.INTEGER, primaryKey: true },
        time: whole(),
        account: text(true),
        by: text(),
        kind: text(),
        instrument: text(true),
        orderId: text(true),
        causedBy: whole(true),
        text: text(),
        data: text(),
        history: text(true),
        hash: text(),
      });
      await context.addIndex('activity', ['orderId']);
      await context.addIndex('activity', ['account', 'seq']);
      await context.createTable('snapshots', { seq: { type: DataTypes.INTEGER, primaryKey: true }, state: text() });
    },
  },
  {
    name: '2026-03-02-access',
    up: async ({ context }) => {
      await context.createTable('users', {
        name: { type: DataTypes.STRING, primaryKey: true },
        password: text(),
        secondStep: text(true),
        pendingSecondStep: text(true),
      });
      await context.createTable('sessions', { id: { type: DataTypes.STRING, primaryKey: true }, user: text(), csrf: text(), expiresAt: whole() });
      await context.createTable('tokens', {
        id: { type: DataTypes.STRING, primaryKey: true },
        user: text(),
        name: text(),
        hash: text(),
        createdAt: whole(),
        expiresAt: whole(true),
      });
      await context.addIndex('tokens', ['hash']);
    },
  },
  {
    name: '2026-11-23-saved',
    up: async ({ context }) => {
      await context.createTable('saved', {
        user: { type: DataTypes.STRING, primaryKey: true },
        kind: { type: DataTypes.STRING, primaryKey: true },
        name: { type: DataTypes.STRING, primaryKey: true },
        document: text(),
        updatedAt: whole(),
      });
    },
  },
];

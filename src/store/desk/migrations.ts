import { DataTypes, type ModelAttributeColumnOptions } from 'sequelize';
import type { Migration } from '../database.ts';

const text = (allowNull = false): ModelAttributeColumnOptions => ({ type: DataTypes.TEXT, allowNull });
const key = (): ModelAttributeColumnOptions => ({ type: DataTypes.STRING, primaryKey: true });
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
  {
    name: '2026-11-25-log-with-versions',
    up: async ({ context }) => {
      await context.addColumn('activity', 'version', { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 });
      await context.removeIndex('activity', ['orderId']);
      await context.addIndex('activity', ['orderId', 'seq']);
      await context.addIndex('activity', ['instrument', 'seq']);
      await context.dropTable('snapshots');
    },
  },
  {
    name: '2026-11-25-where-signed-in',
    up: async ({ context }) => {
      await context.addColumn('sessions', 'createdAt', { type: DataTypes.BIGINT, allowNull: false, defaultValue: 0 });
      await context.addColumn('sessions', 'agent', { type: DataTypes.TEXT, allowNull: false, defaultValue: '' });
    },
  },
  {
    name: '2026-11-26-finding',
    up: async ({ context }) => {
      await context.createTable('watched', { kind: key(), id: key(), user: text(), value: text() });
      await context.createTable('firings', { seq: { type: DataTypes.INTEGER, primaryKey: true }, alert: text(), user: text(), value: text() });
      await context.addIndex('firings', ['alert']);
      const number = { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true };
      await context.createTable('scan_runs', { number, user: text(), scan: text(), value: text() });
      await context.addIndex('scan_runs', ['user', 'scan', 'number']);
      await context.createTable('finding_marks', { name: key(), value: whole() });
    },
  },
  {
    name: '2026-11-26-baskets',
    up: ({ context }) => context.createTable('basket_runs', { id: key(), user: text(), value: text() }),
  },
  {
    name: '2026-11-26-review',
    up: ({ context }) => context.createTable('review_facts', { name: key(), value: text() }),
  },
];

/** What follows from the log alone, in a file of its own: it can be made again at any time. */
export const TABLE_MIGRATIONS: readonly Migration[] = [
  {
    name: '2026-11-25-tables',
    up: async ({ context }) => {
      await context.createTable('snapshots', { account: key(), seq: whole(), version: whole(), state: text() });
      await context.createTable('orders', {
        id: key(),
        seq: whole(),
        account: text(),
        instrument: text(),
        state: text(),
        done: { type: DataTypes.BOOLEAN, allowNull: false },
        value: text(),
      });
      await context.addIndex('orders', ['account', 'seq']);
      await context.addIndex('orders', ['account', 'done', 'seq']);
      await context.addIndex('orders', ['account', 'instrument', 'seq']);
      await context.createTable('fills', { id: key(), seq: whole(), account: text(), instrument: text(), orderId: text(), value: text() });
      await context.addIndex('fills', ['account', 'seq']);
      await context.addIndex('fills', ['account', 'instrument', 'seq']);
      await context.createTable('asked', { account: key(), clientOrderId: key(), orderId: text(), content: text() });
      await context.createTable('watermarks', { name: key(), seq: whole(), hash: text() });
    },
  },
  {
    name: '2026-11-26-orders-by-group',
    up: async ({ context }) => {
      await context.addColumn('orders', 'groupId', { type: DataTypes.TEXT, allowNull: true });
      await context.addIndex('orders', ['groupId']);
    },
  },
  {
    name: '2026-11-26-fills-by-order',
    up: ({ context }) => context.addIndex('fills', ['orderId']),
  },
  {
    name: '2026-11-27-past',
    up: async ({ context }) => {
      const place = { type: DataTypes.INTEGER, primaryKey: true };
      await context.createTable('past', { seq: place, place: { ...place }, account: text(), kind: text(), time: whole(), name: text(), value: text() });
      await context.addIndex('past', ['account', 'kind', 'time']);
      await context.addIndex('past', ['name']);
      await context.createTable('past_mark', { name: key(), seq: whole(), hash: text(), version: whole(), value: text() });
    },
  },
  { name: '2026-11-27-past-in-order', up: ({ context }) => context.addIndex('past', ['account', 'kind', 'seq', 'place']) },
];

import { DataTypes } from 'sequelize';
import type { Migration } from '../database.ts';

export const VENUE_MIGRATIONS: readonly Migration[] = [
  {
    name: '2026-03-01-state',
    up: async ({ context }) => {
      await context.createTable('state', {
        key: { type: DataTypes.STRING, primaryKey: true },
        value: { type: DataTypes.TEXT, allowNull: true },
      });
    },
  },
];

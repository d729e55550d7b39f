import { DataTypes } from 'sequelize';
import type { Migration } from '../database.ts';

export const VENUE_MIGRATIONS: readonly Migration[] = [
  {
    name: '2026-11-25-parts',
    up: async ({ context }) => {
      // Before there were numbers by account the state was of another form: a world of then begins anew at the broker.
      await context.dropTable('state').catch(() => undefined);
      await context.createTable('parts', {
        kind: { type: DataTypes.STRING(16), primaryKey: true },
        name: { type: DataTypes.STRING(160), primaryKey: true },
        value: { type: DataTypes.TEXT, allowNull: false },
      });
    },
  },
];

import type { Knex } from 'knex';

/** A part of a list, the newest first: so many, made before a time (milliseconds since 1970) where one is given. */
export interface Page {
  limit: number;
  before?: number;
}

export const paged = (asked: Knex.QueryBuilder, column: string, limit: number, before?: number): Knex.QueryBuilder =>
  (before === undefined ? asked : asked.where(column, '<', before)).limit(limit);

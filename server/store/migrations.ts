import type { Knex } from 'knex';

/** Steps of the schema in order. A step that has landed is never changed; a new one is added. */
export const migrations: { name: string; up: (knex: Knex) => Promise<void> }[] = [
  {
    name: '001-first',
    async up(knex) {
      await knex.schema.createTable('sources', (table) => {
        table.string('id', 40).primary();
        table.string('root', 40).notNullable().index();
        table.text('folder').notNullable();
        table.text('name').notNullable();
        table.specificType('data', 'LONGTEXT').notNullable();
        table.bigInteger('scan').notNullable();
      });
      await knex.schema.createTable('scans', (table) => {
        table.string('root', 40).primary();
        table.bigInteger('number').notNullable();
        table.integer('files').notNullable();
        table.bigInteger('bytes').notNullable();
        table.string('finished', 40).notNullable();
      });
      // A person's word stays when its source is gone for a while and comes back.
      await knex.schema.createTable('words', (table) => {
        table.string('source', 40).primary();
        table.text('word').notNullable();
        table.string('changed', 40).notNullable();
      });
      await knex.schema.createTable('specs', (table) => {
        table.increments('id');
        table.string('name', 120).notNullable().unique();
        table.integer('version').notNullable();
        table.text('spec').notNullable();
        table.string('saved', 40).notNullable();
      });
      await knex.schema.createTable('plans', (table) => {
        table.string('id', 40).primary();
        table.string('source', 40).notNullable();
        table.specificType('plan', 'LONGTEXT').notNullable();
        table.string('made', 40).notNullable();
      });
      await knex.schema.createTable('jobs', (table) => {
        table.string('id', 40).primary();
        table.string('plan', 40).notNullable().references('plans.id');
        table.string('source', 40).notNullable();
        table.string('state', 16).notNullable().index();
        table.double('work_seconds').notNullable().defaultTo(0);
        table.text('problem').nullable();
        table.bigInteger('created').notNullable().index();
        table.string('started', 40).nullable();
        table.string('finished', 40).nullable();
      });
      await knex.schema.createTable('receipts', (table) => {
        table.string('job', 40).primary().references('jobs.id');
        table.specificType('receipt', 'LONGTEXT').notNullable();
        table.bigInteger('made').notNullable().index();
      });
    },
  },
];

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
  {
    name: '002-intake',
    async up(knex) {
      await knex.schema.alterTable('sources', (table) => {
        // What lists are narrowed and sorted by; worked out again whenever a word, a rule or a finding changes.
        table.string('place', 300).collate('utf8mb4_bin').notNullable().defaultTo('');
        table.string('kind', 12).notNullable().defaultTo('still');
        table.string('rate', 24).nullable();
        table.boolean('undeclared').notNullable().defaultTo(false);
        table.tinyint('worst').notNullable().defaultTo(0);
        table.string('codes', 600).notNullable().defaultTo(' ');
        table.bigInteger('frames').notNullable().defaultTo(0);
        table.bigInteger('bytes').notNullable().defaultTo(0);
        table.bigInteger('modified').notNullable().defaultTo(0);
        table.string('family', 64).nullable().index();
        table.integer('version').nullable();
        table.index(['root', 'place']);
        // Counts of a whole root are read from this alone, without a row.
        table.index(['root', 'kind', 'rate', 'undeclared', 'worst', 'bytes', 'codes'], 'sources_counts');
      });
      await knex.schema.alterTable('scans', (table) => {
        table.specificType('notes', 'LONGTEXT').nullable();
      });
      await knex.schema.createTable('rules', (table) => {
        table.string('id', 40).primary();
        table.string('root', 40).notNullable().index();
        table.text('folder').notNullable();
        table.text('word').notNullable();
        table.string('changed', 40).notNullable();
      });
      // Like a word, a reason stays when its source is gone for a while.
      await knex.schema.createTable('set_aside', (table) => {
        table.string('source', 40).notNullable();
        table.string('code', 40).notNullable();
        table.text('sentence').notNullable();
        table.text('reason').notNullable();
        table.string('changed', 40).notNullable();
        table.primary(['source', 'code']);
      });
      await knex.schema.createTable('batches', (table) => {
        table.string('id', 40).primary();
        table.string('key', 64).notNullable().index();
        table.text('folder').notNullable();
        table.specificType('files', 'LONGTEXT').notNullable();
        table.bigInteger('created').notNullable();
        table.boolean('finished').notNullable().defaultTo(false);
      });
    },
  },
  {
    name: '003-names',
    async up(knex) {
      // What a rename did to each file stands in its journal on disk.
      await knex.schema.createTable('renames', (table) => {
        table.string('id', 40).primary();
        table.string('state', 12).notNullable().index();
        table.string('mode', 12).notNullable();
        table.text('sentence').notNullable();
        table.integer('files').notNullable();
        table.string('root', 400).notNullable();
        table.string('into', 400).notNullable();
        table.text('example').nullable();
        table.string('undoes', 40).nullable();
        // Ids of sources before and after: what was said of the one holds for the other.
        table.specificType('sources', 'LONGTEXT').notNullable();
        table.text('problem').nullable();
        table.bigInteger('created').notNullable().index();
        table.string('finished', 40).nullable();
      });
      await knex.schema.createTable('stacks', (table) => {
        table.increments('id');
        table.string('name', 120).notNullable().unique();
        table.integer('version').notNullable();
        table.text('spec').notNullable();
        table.string('saved', 40).notNullable();
      });
      await knex.schema.createTable('receivers', (table) => {
        table.string('id', 60).primary();
        table.text('receiver').notNullable();
        table.string('saved', 40).notNullable();
      });
    },
  },
  {
    name: '004-time',
    async up(knex) {
      // Like a word, a marker stays when its source is gone for a while.
      await knex.schema.createTable('markers', (table) => {
        table.string('source', 40).primary();
        table.integer('version').notNullable();
        table.specificType('markers', 'LONGTEXT').notNullable();
        table.string('changed', 40).notNullable();
      });
      await knex.schema.createTable('cadences', (table) => {
        table.string('source', 40).primary();
        table.string('is_of', 80).notNullable();
        table.specificType('cadence', 'LONGTEXT').notNullable();
      });
    },
  },
  {
    name: '005-jobs',
    async up(knex) {
      await knex.schema.alterTable('jobs', (table) => {
        table.tinyint('priority').notNullable().defaultTo(1);
        table.double('place').notNullable().defaultTo(0);
        // How a job that is at rest is told of, so that a list reads neither plans nor journals.
        table.specificType('view', 'LONGTEXT').nullable();
      });
      await knex('jobs').update({ place: knex.ref('created') });
      // What came to its end with failures had no state of its own.
      await knex.raw(
        "UPDATE jobs JOIN receipts ON receipts.job = jobs.id SET jobs.state = 'incomplete' " +
          "WHERE jobs.state = 'done' AND JSON_LENGTH(receipts.receipt, '$.failed') > 0",
      );
    },
  },
  {
    name: '006-arrivals',
    async up(knex) {
      // A batch is sources that are converted together.
      await knex.schema.renameTable('batches', 'arrivals');
    },
  },
  {
    name: '007-batches',
    async up(knex) {
      await knex.schema.createTable('batches', (table) => {
        table.string('id', 40).primary();
        // What was wanted: outputs and where a source differs.
        table.specificType('batch', 'LONGTEXT').notNullable();
        table.specificType('sources', 'LONGTEXT').notNullable();
        table.text('sentence').notNullable();
        table.specificType('refused', 'LONGTEXT').notNullable();
        // How a batch that is at rest is told of, so that a list reads no jobs.
        table.specificType('view', 'LONGTEXT').nullable();
        table.bigInteger('created').notNullable().index();
      });
      await knex.schema.createTable('selections', (table) => {
        table.string('id', 40).primary();
        table.specificType('sources', 'LONGTEXT').notNullable();
        table.bigInteger('created').notNullable();
      });
      await knex.schema.alterTable('jobs', (table) => {
        table.string('batch', 40).nullable().index();
        table.smallint('output').notNullable().defaultTo(0);
        // What tells jobs that make the same results of the same source, whatever frames it had.
        table.string('made_as', 16).nullable().index();
      });
    },
  },
  {
    name: '008-standing',
    async up(knex) {
      await knex.schema.createTable('standing_orders', (table) => {
        table.string('id', 40).primary();
        table.integer('edition').notNullable();
        table.specificType('standing_order', 'LONGTEXT').notNullable();
        table.boolean('paused').notNullable().defaultTo(false);
        table.string('looked', 40).nullable();
        table.bigInteger('created').notNullable();
      });
      // What was decided of each source last, and what it was then.
      await knex.schema.createTable('looks', (table) => {
        table.string('standing', 40).notNullable();
        table.string('source', 40).notNullable();
        table.string('kind', 12).notNullable();
        table.text('words').notNullable();
        table.string('stamp', 40).notNullable();
        // Whether it holds until the source changes, whatever else may.
        table.boolean('holds').notNullable().defaultTo(false);
        table.bigInteger('at').notNullable();
        table.primary(['standing', 'source']);
      });
      await knex.schema.createTable('decisions', (table) => {
        table.bigIncrements('id');
        table.string('standing', 40).notNullable().index();
        table.string('kind', 12).notNullable();
        table.text('source').nullable();
        table.text('words').notNullable();
        table.string('batch', 40).nullable();
        table.string('at', 40).notNullable();
      });
      await knex.schema.alterTable('batches', (table) => {
        table.string('standing', 40).nullable().index();
      });
    },
  },
];

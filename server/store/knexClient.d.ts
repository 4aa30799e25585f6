/** What Shale overrides of knex's client; its package declares no types for it by itself. */
declare module 'knex/lib/dialects/mysql2/index.js' {
  import { Knex } from 'knex';
  export default class Mysql2Client extends Knex.Client {
    _query(connection: unknown, asked: { options?: object }): Promise<unknown>;
    acquireConnection(): Promise<unknown>;
  }
}

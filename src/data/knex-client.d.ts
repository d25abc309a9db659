/** Knex has no types for its dialects' clients; this is as much of one as is extended here. */
declare module 'knex/lib/dialects/better-sqlite3/index.js' {
  import { Knex } from 'knex';
  export default class Client extends Knex.Client {
    _formatBindings(bindings?: readonly unknown[]): unknown[];
  }
}

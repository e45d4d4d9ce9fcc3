import type { Feed } from '@upsetter/core/wire';
import type { Knex } from 'knex';
import type { FeedRepository } from '../store.js';
import { withStoreErrors } from './store-errors.js';

export function createFeedRepository(knex: Knex): FeedRepository {
  return {
    list: () =>
      withStoreErrors(async () => {
        const rows: { feed: Feed }[] = await knex('feeds').select('feed').orderBy('name');
        return rows.map(({ feed }) => feed);
      }),
    save: (feed) =>
      withStoreErrors(async () => {
        await knex('feeds')
          .insert({ name: feed.name, feed: JSON.stringify(feed) })
          .onConflict('name')
          .merge();
      }),
    remove: (name) =>
      withStoreErrors(async () => {
        await knex('feeds').where({ name }).delete();
      }),
  };
}

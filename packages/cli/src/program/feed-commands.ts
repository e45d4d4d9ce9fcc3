import type { CommonOptions } from '../commands/connect.js';
import type { FeedOptions } from '../commands/feed.js';
import { type CommandAdder, withCommon } from './command-adder.js';

/** Commands about contracts that are fetched again and again. */
export function addFeedCommands(add: CommandAdder): void {
  const feed = add.group(
    'feed',
    'Contracts that services follow: fetched by the clock, by hand, or by POST /api/feeds/NAME/run.',
    'upsetter feed list',
  );
  const adding = withCommon(
    add.command(
      'add <name> <source>',
      'Let a service follow a contract: a file, a URL, or (with --git) a path in a git repository.',
      'upsetter feed add berth-desk berth-desk.openapi.yaml --every 5m\n  upsetter feed add berth-desk api/berth-desk.yaml --git https://127.0.0.1/harbour.git --branch main',
      feed,
    ),
  )
    .option('--service <name>', 'the service that follows (default: named as the feed); made where it is not there')
    .option('--every <duration>', 'fetch it so often (default: by hand and by the hook alone)')
    .option('--git <repository>', 'the git repository that has it')
    .option('--branch <name>', 'its branch (default: its own)')
    .option('--side-by-side', 'each version becomes a service of its own: NAME@VERSION');
  add.action(adding, async (name: string, source: string, options: FeedOptions) =>
    (await import('../commands/feed.js')).addFeed(name, source, options),
  );
  const listing = withCommon(add.command('list', 'List the feeds.', 'upsetter feed list', feed));
  add.action(listing, async (options: CommonOptions) => (await import('../commands/feed.js')).listFeeds(options));
  const running = withCommon(
    add.command('run <name>', 'Fetch now, and merge what is new.', 'upsetter feed run berth-desk', feed),
  );
  add.action(running, async (name: string, options: CommonOptions) =>
    (await import('../commands/feed.js')).runFeed(name, options),
  );
  const removing = withCommon(
    add.command('remove <name>', 'Fetch no more; the service stays.', 'upsetter feed remove berth-desk', feed),
  );
  add.action(removing, async (name: string, options: CommonOptions) =>
    (await import('../commands/feed.js')).removeFeed(name, options),
  );
}

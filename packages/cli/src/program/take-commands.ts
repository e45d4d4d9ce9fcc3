import type { Command } from 'commander';
import type { CommonOptions } from '../commands/connect.js';
import type { TakeStartOptions } from '../commands/take.js';
import { type CommandAdder, withCommon } from './command-adder.js';

/** Commands about takes: hear a session, look at it, keep or drop it. */
export function addTakeCommands(add: CommandAdder): void {
  const take = add.group(
    'take',
    'Hear a session with a real service.',
    'upsetter take start booking --from http://127.0.0.1:4691',
  );
  addTakeStart(add, take);

  const stop = withCommon(
    add.command('stop <name>', 'Close a take; list what was heard.', 'upsetter take stop booking', take),
  );
  add.action(stop, async (name: string, options: CommonOptions) =>
    (await import('../commands/take.js')).stopTake(name, options),
  );

  const list = withCommon(add.command('list', 'List the takes.', 'upsetter take list', take));
  add.action(list, async (options: CommonOptions) => (await import('../commands/take.js')).listTakes(options));

  const show = withCommon(
    add.command('show <name>', 'Show what a take heard, and what was masked.', 'upsetter take show booking', take),
  );
  add.action(show, async (name: string, options: CommonOptions) =>
    (await import('../commands/take.js')).showTake(name, options),
  );

  const keep = withCommon(
    add.command(
      'keep <call>',
      'Keep one call that was relayed, in a take of its service.',
      'upsetter take keep 5f0c2a91',
      take,
    ),
  );
  add.action(keep, async (id: string, options: CommonOptions) =>
    (await import('../commands/take.js')).keepCall(id, options),
  );

  const exporting = withCommon(
    add.command('export <name>', 'Write a take as a HAR file.', 'upsetter take export booking --har booking.har', take),
  ).option('--har <file>', 'the file (default: print it)');
  add.action(exporting, async (name: string, options: CommonOptions & { har?: string }) =>
    (await import('../commands/take.js')).exportTake(name, options),
  );

  const remove = withCommon(
    add.command('remove <name>', 'Remove a take and what it heard.', 'upsetter take remove booking', take),
  );
  add.action(remove, async (name: string, options: CommonOptions) =>
    (await import('../commands/take.js')).removeTake(name, options),
  );
}

function addTakeStart(add: CommandAdder, take: Command): void {
  const start = withCommon(
    add.command(
      'start <name>',
      'Open a port that passes everything through, to the real service or as a proxy, and hears both sides.',
      'upsetter take start booking --from http://127.0.0.1:4691',
      take,
    ),
  )
    .option('--from <url>', 'the real service')
    .option('--proxy', 'a proxy for http_proxy and https_proxy, for applications whose addresses cannot change')
    .option(
      '--hear <host...>',
      'with --proxy: hosts to hear, such as *.harbour.test; the others pass untouched (default: all)',
    )
    .option('--port <port>', 'port to listen on (default: a free one)')
    .option('--mask <name...>', 'headers, fields and parameters to mask beside the usual ones')
    .option('--rewrite', "rewrite redirects, links and cookies to this port's own address")
    .option('--authority <file>', 'PEM certificates of real services to trust beside the usual ones');
  add.action(start, async (name: string, options: TakeStartOptions) =>
    (await import('../commands/take.js')).startTake(name, options),
  );
}

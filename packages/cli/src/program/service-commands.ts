import type { Command } from 'commander';
import type { ApplyOptions } from '../commands/apply.js';
import type { CommonOptions } from '../commands/connect.js';
import type { DraftOptions } from '../commands/draft.js';
import type { UpsetOptions } from '../commands/upset.js';
import { type CommandAdder, withCommon } from './command-adder.js';

/** Commands that make, show and change services. */
export function addServiceCommands(add: CommandAdder): void {
  const apply = withCommon(
    add.command(
      'apply <files...>',
      'Create or replace services from files; a running mock answers the next call with the change.',
      'upsetter apply berth-desk.yaml',
    ),
  )
    .option('--replace', 'also over changes made since the last apply')
    .option('--reset', 'state, rows and turns of all lanes begin anew')
    .option('--env <name>', 'the environment whose variables hold, of environments.yaml beside the file')
    .option('--side-by-side', 'beside other versions of the service, as NAME@VERSION');
  add.action(apply, async (files: string[], options: ApplyOptions) =>
    (await import('../commands/apply.js')).applyFiles(files, options),
  );

  const services = withCommon(
    add.command('services', 'List the services: address, calls, what upsets them.', 'upsetter services'),
  );
  add.action(services, async (options: CommonOptions) =>
    (await import('../commands/services.js')).listServices(options),
  );

  const exporting = withCommon(
    add.command(
      'export <service> <folder>',
      'Write the service file, and the files beside it, into a folder.',
      'upsetter export berth-desk mocks',
    ),
  );
  add.action(exporting, async (name: string, folder: string, options: CommonOptions) =>
    (await import('../commands/export.js')).exportService(name, folder, options),
  );

  const show = withCommon(
    add.command(
      'show <service>',
      'Show one service: operations, cases in order, upsets.',
      'upsetter show berth-desk --file > berth-desk.yaml',
    ),
  ).option('--file', 'print its service file');
  add.action(show, async (name: string, options: CommonOptions & { file?: boolean }) =>
    (await import('../commands/services.js')).showService(name, options),
  );

  const remove = withCommon(
    add.command('remove <service>', 'Remove a service; its calls stay in the log.', 'upsetter remove berth-desk'),
  );
  add.action(remove, async (name: string, options: CommonOptions) =>
    (await import('../commands/services.js')).removeService(name, options),
  );

  const history = withCommon(
    add.command('history <service>', 'List the revisions of a service.', 'upsetter history berth-desk'),
  );
  add.action(history, async (name: string, options: CommonOptions) =>
    (await import('../commands/services.js')).showHistory(name, options),
  );

  addDraft(add);
  addUpset(add);
}

function addDraft(add: CommandAdder): void {
  const draft = add.group(
    'draft',
    'Draft a service from recorded traffic or from a contract.',
    'upsetter draft har tide-office.har --adopt',
  );
  const har = withTraffic(
    add.command(
      'har <file>',
      'Draft a service from a HAR file.',
      'upsetter draft har tide-office.har --as tide-office -o tide-office.yaml',
      draft,
    ),
  ).option('--mask <name...>', 'headers, fields and parameters to mask beside the usual ones');
  add.action(har, async (file: string, options: DraftOptions) =>
    (await import('../commands/draft.js')).draftFile('har', file, options),
  );
  const take = withTraffic(
    add.command(
      'take <names...>',
      'Draft a service from a take of the running service; several are put together.',
      'upsetter draft take booking --as berth-desk -o berth-desk.yaml',
      draft,
    ),
  );
  add.action(take, async (names: string[], options: DraftOptions) =>
    (await import('../commands/take.js')).draftTake(names, options),
  );
  const openapi = withContract(
    add.command(
      'openapi <source>',
      'Draft a service from an OpenAPI 3.0 or 3.1 or Swagger 2.0 document (a file or a URL), and what it refers to.',
      'upsetter draft openapi berth-desk.openapi.yaml --adopt',
      draft,
    ),
  )
    .option('--no-base', "drop the base path of the contract's first server")
    .option('--lexicon <file>', "a file of the team's words for generated values: field -> words")
    .option('--rows <count>', 'make datasets with so many rows of what is listed, read and changed by its paths');
  add.action(openapi, async (file: string, options: DraftOptions) =>
    (await import('../commands/draft.js')).draftFile('openapi', file, options),
  );
  const wsdl = withContract(
    add.command(
      'wsdl <source>',
      'Draft a SOAP service from a WSDL 1.1 document (a file or a URL), and the schemas it imports.',
      'upsetter draft wsdl manifest-office.wsdl --adopt',
      draft,
    ),
  );
  add.action(wsdl, async (file: string, options: DraftOptions) =>
    (await import('../commands/draft.js')).draftFile('wsdl', file, options),
  );
}

/** The options of drafts from contracts. */
function withContract(command: Command): Command {
  return withDraft(command)
    .option(
      '--only <choice...>',
      "nothing but these: tag:bookings, '/berths/*', 'GET /berths/*', an operation's own name",
    )
    .option('--without <choice...>', 'leave out; written as for --only')
    .option('--allow <host...>', 'hosts that references may lead to, beside its own');
}

/** The options of drafts from traffic. */
function withTraffic(command: Command): Command {
  return withDraft(command)
    .option('--level <level>', 'as-heard, carried or alive (default alive)')
    .option('--origin <url>', 'the origin to draft, when there are several (default: the one heard most)')
    .option('--contract <file>', 'an OpenAPI document that names paths, parameters and operations')
    .option(
      '--without <choice...>',
      "leave out: '/health', 'DELETE /berths/*', status:5xx, type:image/*, host:NAME, '#12'",
    )
    .option('--only <choice...>', 'nothing but these; written as for --without')
    .option('--overrule <id=value...>', "a decision by its id: 'path:/berths/{}=literal', records:bookings=no");
}

function withDraft(command: Command): Command {
  return withCommon(command)
    .option('--as <name>', 'name of the service')
    .option('--port <port>', 'port to write under `listen`')
    .option('-o, --output <file>', 'write the service file here (default: print it)')
    .option('--adopt', 'save it into the running service')
    .option('--merge', 'merge into the file or service that is there: what was edited by hand stays')
    .option('--replace', 'with --adopt: also over a service of that name');
}

function addUpset(add: CommandAdder): void {
  const upset = withCommon(
    add.command(
      'upset <service> [operations...]',
      'Upset a service, or some of its operations, at once.',
      'upsetter upset tide-office --delay 800ms --share 50%',
    ),
  )
    .option('--delay <duration>', 'wait before the first byte: 800ms, 2s')
    .option('--pace <rate>', 'slow the body down: 500B/s, 20kB/s, 1.5MB/s')
    .option('--pieces <count>', 'or send it in so many pieces, with --gap')
    .option('--gap <duration>', 'the time between two pieces: 400ms')
    .option('--answer <status>', 'answer with this status instead of the case')
    .option('--break <how>', 'break the call instead: silence, hangup or reset')
    .option('--share <share>', 'of a share of the calls only: 50%')
    .option('--first <count>', 'of the first so many calls only')
    .option('--every <count>', 'of each so-manieth call only: 4')
    .option('--for <duration>', 'for a time only: 10s')
    .option('--from <duration>', 'with --for: beginning so much later: 30s')
    .option('--again <duration>', 'with --for: once in each such time: 60s')
    .option('--name <name>', 'a name for it (default: what it does)');
  add.action(upset, async (name: string, operations: string[], options: UpsetOptions) =>
    (await import('../commands/upset.js')).upsetService(name, operations, options),
  );

  const calm = withCommon(
    add.command(
      'calm <service> [upsets...]',
      'Switch upsets off: all of them, or those named.',
      'upsetter calm tide-office',
    ),
  );
  add.action(calm, async (name: string, upsets: string[], options: CommonOptions) =>
    (await import('../commands/upset.js')).calmService(name, upsets, options),
  );

  const schema = add
    .command(
      'schema',
      'Print the JSON Schema of the service file, for editors; needs no running service.',
      'upsetter schema -o upsetter.schema.json',
    )
    .option('-o, --output <file>', 'the file (default: print it)');
  add.action(schema, async (options: { output?: string }) =>
    (await import('../commands/schema.js')).writeSchema(options),
  );
}

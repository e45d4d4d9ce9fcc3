import type { CompleteOptions, ContractCheckOptions } from '../commands/contract.js';
import type { TrialOptions } from '../commands/trial.js';
import { type CommandAdder, withCommon } from './command-adder.js';

const AGAINST = 'the contract, a file or a URL (else the one that the service file names)';

/** Commands about contracts, and about real implementations of them. */
export function addContractCommands(add: CommandAdder): void {
  const contract = add.group(
    'contract',
    'Whether services keep to their contracts.',
    'upsetter contract check berth-desk.yaml',
  );
  const check = withCommon(
    add.command(
      'check <file>',
      'Hold each case of a service file against a contract; no running service is needed.',
      'upsetter contract check berth-desk.yaml --junit contract.xml',
      contract,
    ),
  )
    .option('--against <source>', AGAINST)
    .option('--junit <file>', 'write JUnit XML')
    .option('--allow <host...>', 'hosts that references may lead to, beside its own');
  add.action(check, async (file: string, options: ContractCheckOptions) =>
    (await import('../commands/contract.js')).checkContract(file, options),
  );

  const complete = withCommon(
    add.command(
      'complete <file> [operation]',
      'Add what the contract has and a service file has not: everything, one operation, or one response.',
      "upsetter contract complete berth-desk.yaml 'GET /berths'\n  upsetter contract complete berth-desk.yaml readBerth --response 404",
      contract,
    ),
  )
    .option('--response <code>', 'only the response of this code, of the operation named as in the service file')
    .option('--against <source>', AGAINST)
    .option('--allow <host...>', 'hosts that references may lead to, beside its own');
  add.action(complete, async (file: string, operation: string | undefined, options: CompleteOptions) =>
    (await import('../commands/contract.js')).completeFile(file, operation, options),
  );

  const trial = withCommon(
    add.command(
      'trial <service>',
      'Try the cases and the contract of a service (its name, or its file) against a real implementation.',
      'upsetter trial berth-desk.yaml --against http://127.0.0.1:4691 --writes --html trial.html',
    ),
  )
    .option('--against <url>', 'where the real implementation answers')
    .option('--env <name>', 'the environment it stands in: what changed is told by environment (default: default)')
    .option('--writes', 'send calls that may change things, too')
    .option('--hostile', 'send calls that the contract does not allow, too: they must be refused')
    .option('-H, --header <header...>', "a header of every call, 'name: value'")
    .option('--rate <count>', 'at most so many calls a second (default 10)')
    .option('--html <file>', 'write one page with the messages of both sides')
    .option('--junit <file>', 'write JUnit XML');
  add.action(trial, async (service: string, options: TrialOptions) =>
    (await import('../commands/trial.js')).tryService(service, options),
  );
}

import type { ContractCheckOptions } from '../commands/contract.js';
import { type CommandAdder, withCommon } from './command-adder.js';

/** Commands about contracts. */
export function addContractCommands(add: CommandAdder): void {
  const contract = add.group(
    'contract',
    'Whether services keep to their contracts.',
    'upsetter contract check berth-desk.yaml --against berth-desk.openapi.yaml',
  );
  const check = withCommon(
    add.command(
      'check <file>',
      'Hold each case of a service file against a contract; no running service is needed.',
      'upsetter contract check berth-desk.yaml --against berth-desk.openapi.yaml --junit contract.xml',
      contract,
    ),
  )
    .option('--against <source>', 'the contract: OpenAPI 3.0 or 3.1 or Swagger 2.0, a file or a URL')
    .option('--junit <file>', 'write JUnit XML')
    .option('--allow <host...>', 'hosts that references may lead to, beside its own');
  add.action(check, async (file: string, options: ContractCheckOptions) =>
    (await import('../commands/contract.js')).checkContract(file, options),
  );
}

import { Command } from 'commander';
import { addAuthorityCommands } from './program/authority-commands.js';
import { addCallCommands } from './program/call-commands.js';
import { createAdder, type Outcome } from './program/command-adder.js';
import { addContractCommands } from './program/contract-commands.js';
import { addFeedCommands } from './program/feed-commands.js';
import { addLaneCommands } from './program/lane-commands.js';
import { addRunningCommands } from './program/running-commands.js';
import { addServiceCommands } from './program/service-commands.js';
import { addTakeCommands } from './program/take-commands.js';

/** The command line: each command with its options and an example. `passed` is what stands after `--`. */
export function createProgram(outcome: Outcome, passed: readonly string[]): Command {
  const program = new Command('upsetter')
    .description('Mock HTTP services from recorded traffic or contracts: shape, upset, verify.')
    .showHelpAfterError('(upsetter --help, or upsetter COMMAND --help)')
    .helpCommand(false)
    .addHelpText('after', '\nExample:\n  upsetter run berth-desk.yaml')
    .exitOverride();
  const add = createAdder(program, outcome);
  addRunningCommands(add, passed);
  addTakeCommands(add);
  addAuthorityCommands(add);
  addServiceCommands(add);
  addContractCommands(add);
  addFeedCommands(add);
  addCallCommands(add);
  addLaneCommands(add);
  return program;
}

import type { Command } from 'commander';

/** What a command came to; commands are imported only when they run, so that --help is quick. */
export interface Outcome {
  exitCode: number;
}

type SetAction = <Args extends unknown[]>(command: Command, action: (...args: Args) => Promise<number>) => void;

/** Adds commands: how each is written, what it does, an example, its action. */
export interface CommandAdder {
  readonly command: (usage: string, description: string, example: string, parent?: Command) => Command;
  readonly action: SetAction;
  readonly group: (name: string, description: string, example: string) => Command;
}

/** How commands are added to a program; what each comes to is set on `outcome`. */
export function createAdder(program: Command, outcome: Outcome): CommandAdder {
  return {
    command: (usage, description, example, parent = program) =>
      parent.command(usage).description(description).addHelpText('after', `\nExample:\n  ${example}`),
    action: (command, action) => {
      command.action(async (...args: unknown[]) => {
        outcome.exitCode = await (action as (...values: unknown[]) => Promise<number>)(...args);
      });
    },
    group: (name, description, example) =>
      program.command(name).description(description).addHelpText('after', `\nExample:\n  ${example}`),
  };
}

/** The options of every command that talks to the running service. */
export function withCommon(command: Command): Command {
  return command
    .option('--control <url>', 'address of the running service (else UPSETTER_URL, else http://127.0.0.1:4600)')
    .option('--json', 'output for programs');
}

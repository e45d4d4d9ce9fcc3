import type { AnswerOptions } from '../commands/answer.js';
import type { CallsOptions } from '../commands/calls.js';
import type { CheckOptions } from '../commands/check.js';
import type { CommonOptions } from '../commands/connect.js';
import type { TryOptions } from '../commands/try.js';
import { type CommandAdder, withCommon } from './command-adder.js';

/** Commands about calls: try one, watch them, ask why, check. */
export function addCallCommands(add: CommandAdder): void {
  const tryOne = withCommon(
    add.command(
      'try <service> <method> <path>',
      'Send one call to a mock; show the answer and why.',
      "upsetter try tide-office GET '/tides/skerry?day=2026-03-02'",
    ),
  )
    .option('-H, --header <header...>', "a header, 'name: value'")
    .option('--body <text>', 'a body; @FILE reads it from a file')
    .option('--lane <lane>', 'the lane to call in')
    .option('--certificate <name>', 'show a client certificate of this name');
  add.action(tryOne, async (service: string, method: string, path: string, options: TryOptions) =>
    (await import('../commands/try.js')).tryOne(service, method, path, options),
  );

  const calls = withCommon(
    add.command(
      'calls [service]',
      'List the latest calls, oldest first; or follow them as they come.',
      'upsetter calls tide-office --follow',
    ),
  )
    .option('--follow', 'print calls as they are completed')
    .option('--strays', 'only calls that no case answered')
    .option('--findings', 'only calls that differ from the contract')
    .option('--lane <lane>', 'only this lane')
    .option('--operation <operation>', 'only this operation')
    .option('--limit <count>', 'at most this many (default 30)');
  add.action(calls, async (service: string | undefined, options: CallsOptions) =>
    (await import('../commands/calls.js')).showCalls(service, options),
  );

  addAnswer(add);
  const why = withCommon(
    add.command(
      'why <call>',
      'Explain a call: the case that answered, and what did not hold in the others.',
      'upsetter why 5f0c2a91',
    ),
  );
  add.action(why, async (id: string, options: CommonOptions) =>
    (await import('../commands/calls.js')).explainCall(id, options),
  );

  const check = withCommon(
    add.command(
      'check <file>',
      'Check the calls received; exit code 1 when a check does not hold.',
      'upsetter check checks.yaml --within 5s --junit checks.xml',
    ),
  )
    .option('--within <duration>', 'wait this long for checks to hold, such as 5s')
    .option(
      '--since <when>',
      'only calls since: 30s (back from now) or an RFC 3339 time (default: since the service started)',
    )
    .option('--lane <lane>', 'the lane of checks that name none (default main)')
    .option('--junit <file>', 'write the outcome as JUnit XML');
  add.action(check, async (file: string, options: CheckOptions) =>
    (await import('../commands/check.js')).checkFile(file, options),
  );
}

function addAnswer(add: CommandAdder): void {
  const answer = withCommon(
    add.command(
      'answer <call>',
      'Give a call a case of its own, with the fewest conditions that fit: what it was answered with, or another answer.',
      "upsetter answer 5f0c2a91 --with '{ status: 409, problem: { title: Berth taken } }'",
    ),
  ).option('--with <yaml>', 'the answer, as in a service file; @FILE reads it from a file');
  add.action(answer, async (id: string, options: AnswerOptions) =>
    (await import('../commands/answer.js')).answerCall(id, options),
  );
}

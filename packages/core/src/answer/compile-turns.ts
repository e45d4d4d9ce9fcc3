import type { Turns } from '../definition/answer.js';
import type { PathKey } from '../definition/yaml-source.js';
import { fractionAt } from '../state/draw.js';
import { compileAnswer } from './compile-answer.js';
import type { TextScope } from './compile-text.js';
import type { CompiledAnswer } from './compiled-answer.js';

/** Several answers of one case: which one is due after so many turns. */
export interface CompiledTurns {
  /** All there are, as they stand in the file. */
  readonly answers: readonly CompiledAnswer[];
  readonly choose: (taken: number, drawHash: number) => CompiledAnswer;
}

export function compileTurns(turns: Turns, path: readonly PathKey[], scope: TextScope): CompiledTurns {
  const answers = turns.list.map(({ times: _times, weight: _weight, ...answer }, i) =>
    compileAnswer(answer, [...path, 'list', i], scope),
  );
  const last = answers.at(-1) as CompiledAnswer;
  if (turns.order === 'random') {
    const weights = turns.list.map(({ weight }) => weight ?? 1);
    const position = scope.takePosition();
    return {
      answers,
      choose: (_taken, drawHash) => pickWeighted(answers, weights, fractionAt(drawHash, position)) ?? last,
    };
  }
  const repeated = turns.list.flatMap(({ times }, i) => Array.from({ length: times ?? 1 }, () => answers[i] ?? last));
  if (turns.order === 'around') return { answers, choose: (taken) => repeated[taken % repeated.length] ?? last };
  return { answers, choose: (taken) => repeated[taken] ?? last };
}

function pickWeighted<T>(items: readonly T[], weights: readonly number[], fraction: number): T | undefined {
  let left = fraction * weights.reduce((sum, weight) => sum + weight, 0);
  return items.find((_, i) => {
    left -= weights[i] ?? 0;
    return left < 0;
  });
}

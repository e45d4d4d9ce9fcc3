import type { UpsetState } from '@upsetter/core/wire';

type Definition = UpsetState['definition'];

/** An upset from the three fields of the panel; named for what it does. */
export function buildUpset({ delay, status, share }: { delay: string; status: string; share: string }): Definition {
  const words = [delay === '' ? '' : `delay ${delay}`, status === '' ? '' : `answer ${status}`, share];
  const name = words.filter((word) => word !== '').join(', ');
  return {
    upset: name,
    ...(delay === '' ? {} : { delay }),
    ...(status === '' ? {} : { answer: { status: Number(status), problem: { title: `Upset: ${name}` } } }),
    ...(share === '' ? {} : { share }),
  };
}

/** What an upset does, in a few words. */
export function describeUpset(definition: Definition): string {
  const words = [
    definition.delay === undefined ? '' : `delay ${describeDelay(definition.delay)}`,
    definition.answer === undefined ? '' : `answer ${definition.answer.status ?? 200}`,
    definition.break === undefined ? '' : `break ${describeBreak(definition.break)}`,
    definition.share === undefined ? '' : `${definition.share} of the calls`,
    definition.of === undefined ? '' : `of ${definition.of.join(', ')}`,
  ];
  return words.filter((word) => word !== '').join(', ');
}

function describeBreak(own: NonNullable<Definition['break']>): string {
  if (typeof own === 'string') return own;
  return own.kept === false || own.kept === 'no' ? `${own.as}, nothing kept` : own.as;
}

function describeDelay(delay: NonNullable<Definition['delay']>): string {
  if (typeof delay === 'string') return delay;
  return 'low' in delay ? `${delay.low} to ${delay.high}` : `median ${delay.median}, p95 ${delay.p95}`;
}

import { describeUpset } from '@upsetter/core/light';
import type { UpsetState } from '@upsetter/core/wire';

type Definition = UpsetState['definition'];

/** What the panel asks for; empty: not this. */
export interface UpsetFields {
  readonly delay: string;
  readonly pace: string;
  readonly status: string;
  readonly share: string;
}

/** An upset from the fields of the panel; named for what it does. */
export function buildUpset({ delay, pace, status, share }: UpsetFields): Definition {
  const what = {
    ...(delay === '' ? {} : { delay }),
    ...(pace === '' ? {} : { pace }),
    ...(share === '' ? {} : { share }),
  };
  const answer = status === '' ? {} : { answer: { status: Number(status) } };
  const name = describeUpset({ ...what, ...answer });
  return {
    upset: name,
    ...what,
    ...(status === '' ? {} : { answer: { status: Number(status), problem: { title: `Upset: ${name}` } } }),
  };
}

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
  const words = [
    delay === '' ? '' : `delay ${delay}`,
    pace === '' ? '' : `pace ${pace}`,
    status === '' ? '' : `answer ${status}`,
    share,
  ];
  const name = words.filter((word) => word !== '').join(', ');
  return {
    upset: name,
    ...(delay === '' ? {} : { delay }),
    ...(pace === '' ? {} : { pace }),
    ...(status === '' ? {} : { answer: { status: Number(status), problem: { title: `Upset: ${name}` } } }),
    ...(share === '' ? {} : { share }),
  };
}

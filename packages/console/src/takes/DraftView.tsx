import { useMutation } from '@tanstack/react-query';
import type { TakeSummary } from '@upsetter/core/wire';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Choice } from '../ui/Choice.js';
import { Field } from '../ui/Field.js';
import { Faint, Trouble } from '../ui/Panel.js';
import { Pick } from '../ui/Pick.js';
import { AdoptPanel } from './AdoptPanel.js';
import { Decisions } from './Decisions.js';
import { FidelityPanel } from './FidelityPanel.js';

const LEVELS = ['as-heard', 'carried', 'alive'] as const;
type Level = (typeof LEVELS)[number];

const TOLD: Readonly<Record<Level, string>> = {
  'as-heard': 'the same session, answered as it was',
  carried: 'other names and ids, carried from call to call',
  alive: 'things that are created, listed, changed and removed',
};

const Choices = styled.div`
  display: grid;
  grid-template-columns: max-content 180px minmax(0, 1fr) auto;
  &[data-mixed] { grid-template-columns: max-content 130px minmax(0, 1fr) minmax(0, 1fr) auto; }
  gap: ${space.m};
  align-items: end;
`;

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr);
  gap: ${space.l};
  margin-top: ${space.m};
  align-items: start;
`;

const Stack = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.m};
  min-width: 0;
`;

const MOST_HEARD = 'most';

export interface DraftViewProps {
  readonly take: TakeSummary;
  /** Those heard; a draft is made from one. */
  readonly origins: readonly string[];
  /** Exchanges left out, by index. */
  readonly left: ReadonlySet<number>;
}

/** The draft of a take: how far it goes, what it concluded, how faithful it is, the file; adopting it is the last step. */
export function DraftView({ take, origins, left }: DraftViewProps) {
  const [level, setLevel] = useState<Level>('alive');
  const [service, setService] = useState(take.name);
  const [origin, setOrigin] = useState(MOST_HEARD);
  const [without, setWithout] = useState('');
  const [overrules, setOverrules] = useState<Readonly<Record<string, string>>>({});
  const draft = useMutation({
    mutationFn: () =>
      client.draftTake(take.name, {
        level,
        service,
        origin: origin === MOST_HEARD ? null : origin,
        without: [...without.split(/,\s*/).filter((choice) => choice !== ''), ...[...left].map((index) => `#${index}`)],
        overrules,
      }),
  });
  const { mutate } = draft;
  // Drafted when the view opens, and again with each choice that is made by a click.
  // biome-ignore lint/correctness/useExhaustiveDependencies: level, origin and overrules are what is drafted again for
  useEffect(() => mutate(), [mutate, level, origin, overrules]);
  const overrule = (id: string, value: string | null): void => {
    const { [id]: _before, ...others } = overrules;
    setOverrules(value === null ? others : { ...others, [id]: value });
  };
  return (
    <>
      <Choices data-mixed={origins.length > 1 ? true : undefined}>
        <Choice label={`level: ${TOLD[level]}`} value={level} options={LEVELS} onChange={setLevel} />
        <Field label="service" value={service} onChange={setService} />
        {origins.length > 1 && <Pick label="origin" value={origin} options={optionsOf(origins)} onChange={setOrigin} />}
        <Field
          label="leave out"
          value={without}
          onChange={setWithout}
          placeholder="/health, DELETE /berths/*, status:5xx, type:image/*, #12"
        />
        <Button onPress={() => mutate()} isDisabled={draft.isPending || service === ''}>
          Draft again
        </Button>
      </Choices>
      {draft.error !== null && <Trouble>{describeError(draft.error)}</Trouble>}
      {draft.isPending && <Faint role="status">drafting ...</Faint>}
      {draft.data !== undefined && (
        <Columns>
          <Stack>
            {draft.data.fidelity !== null && <FidelityPanel fidelity={draft.data.fidelity} />}
            <Decisions decisions={draft.data.decisions} overrules={overrules} onOverrule={overrule} />
          </Stack>
          <AdoptPanel draft={draft.data} take={take.name} />
        </Columns>
      )}
    </>
  );
}

function optionsOf(origins: readonly string[]): ReadonlyMap<string, string> {
  return new Map([[MOST_HEARD, 'the one heard most'], ...origins.map((origin) => [origin, origin] as const)]);
}

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { describeUpset } from '@upsetter/core/light';
import type { ServiceView, UpsetState } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { color, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Field } from '../ui/Field.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';
import { Toggle } from '../ui/Toggle.js';
import { buildUpset, type UpsetFields } from './build-upset.js';

const Fields = styled.div`
  display: grid;
  grid-template-columns: repeat(4, 1fr) auto;
  gap: ${space.s};
  align-items: end;
`;

const Name = styled.span`
  display: block;
  font-weight: 700;
  overflow-wrap: anywhere;
  &[data-in-force] { color: ${color.plum}; }
`;

const Head = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: baseline;
`;

/** What upsets the service now, each with its switch; and a line to add one. All of it takes effect at once. */
export function UpsetPanel({ service }: { readonly service: ServiceView }) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ['services'] });
  const toggle = useMutation({
    mutationFn: ({ name, inForce }: { name: string; inForce: boolean }) =>
      client.switchUpset(service.name, name, inForce),
    onSuccess: refresh,
  });
  const calm = useMutation({ mutationFn: () => client.calm(service.name), onSuccess: refresh });
  const inForce = service.upsets.filter((upset) => upset.inForce).length;
  return (
    <Panel aria-label="Upsets">
      <Head>
        <h2>Upsets</h2>
        {inForce > 0 ? (
          <Button data-kind="quiet" onPress={() => calm.mutate()}>
            calm all
          </Button>
        ) : (
          <Faint>all calm</Faint>
        )}
      </Head>
      {service.upsets.map((upset) => (
        <Row
          key={upset.definition.upset}
          upset={upset}
          onSwitch={(on) => toggle.mutate({ name: upset.definition.upset, inForce: on })}
        />
      ))}
      {toggle.error !== null && <Trouble>{describeError(toggle.error)}</Trouble>}
      <AddUpset name={service.name} onAdded={refresh} />
    </Panel>
  );
}

function Row({ upset, onSwitch }: { readonly upset: UpsetState; readonly onSwitch: (on: boolean) => void }) {
  return (
    <Toggle isOn={upset.inForce} onChange={onSwitch}>
      <span>
        <Name data-in-force={upset.inForce ? true : undefined}>{upset.definition.upset}</Name>
        <Faint>
          {upset.inForce ? 'in force: ' : 'calm: '}
          {describeUpset(upset.definition)}
        </Faint>
      </span>
    </Toggle>
  );
}

const NOTHING: UpsetFields = { delay: '', pace: '', status: '', share: '' };
const LABELS: Readonly<Record<keyof UpsetFields, string>> = {
  delay: 'delay',
  pace: 'pace',
  status: 'answer',
  share: 'share',
};

function isEmpty(text: string): boolean {
  return text.trim() === '';
}

function AddUpset({ name, onAdded }: { readonly name: string; readonly onAdded: () => Promise<void> }) {
  const [fields, setFields] = useState(NOTHING);
  const field = (key: keyof UpsetFields) => ({
    label: LABELS[key],
    value: fields[key],
    onChange: (value: string) => setFields({ ...fields, [key]: value }),
  });
  const add = useMutation({
    mutationFn: () => client.upset(name, buildUpset(fields)),
    onSuccess: async () => {
      setFields(NOTHING);
      await onAdded();
    },
  });
  return (
    <>
      <Fields>
        <Field {...field('delay')} placeholder="800ms" />
        <Field {...field('pace')} placeholder="5kB/s" />
        <Field {...field('status')} placeholder="503" />
        <Field {...field('share')} placeholder="50%" />
        <Button onPress={() => add.mutate()} isDisabled={[fields.delay, fields.pace, fields.status].every(isEmpty)}>
          Upset
        </Button>
      </Fields>
      {add.error !== null && <Trouble>{describeError(add.error)}</Trouble>}
    </>
  );
}

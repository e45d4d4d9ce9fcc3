import { useMutation, useQueryClient } from '@tanstack/react-query';
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
import { buildUpset, describeUpset } from './build-upset.js';

const Fields = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr 1fr auto;
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

function AddUpset({ name, onAdded }: { readonly name: string; readonly onAdded: () => Promise<void> }) {
  const [delay, setDelay] = useState('');
  const [status, setStatus] = useState('');
  const [share, setShare] = useState('');
  const add = useMutation({
    mutationFn: () => client.upset(name, buildUpset({ delay, status, share })),
    onSuccess: async () => {
      setDelay('');
      setStatus('');
      setShare('');
      await onAdded();
    },
  });
  return (
    <>
      <Fields>
        <Field label="delay" value={delay} onChange={setDelay} placeholder="800ms" />
        <Field label="answer" value={status} onChange={setStatus} placeholder="503" />
        <Field label="share" value={share} onChange={setShare} placeholder="50%" />
        <Button onPress={() => add.mutate()} isDisabled={delay === '' && status === ''}>
          Upset
        </Button>
      </Fields>
      {add.error !== null && <Trouble>{describeError(add.error)}</Trouble>}
    </>
  );
}

import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { FeedStart } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Choice } from '../ui/Choice.js';
import { Field } from '../ui/Field.js';
import { Panel, Trouble } from '../ui/Panel.js';
import { TickBox } from '../ui/TickBox.js';

const Line = styled.form`
  display: grid;
  grid-template-columns: 150px max-content minmax(0, 1fr) 90px auto;
  gap: ${space.s};
  align-items: end;
`;

const Git = styled.div`
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 150px;
  gap: ${space.s};
`;

const KINDS = ['url', 'git', 'file'] as const;
const LABELS = { url: 'URL of the contract', git: 'path in the repository', file: 'path of the file' } as const;
const MS_PER_MINUTE = 60_000;

/** A new feed; it is fetched at once. */
export function FeedForm() {
  const [name, setName] = useState('');
  const [kind, setKind] = useState<(typeof KINDS)[number]>('url');
  const [where, setWhere] = useState('');
  const [repository, setRepository] = useState('');
  const [branch, setBranch] = useState('');
  const [minutes, setMinutes] = useState('5');
  const [sideBySide, setSideBySide] = useState(false);
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: async () => {
      const everyMs = Number(minutes) > 0 ? Math.round(Number(minutes) * MS_PER_MINUTE) : null;
      const source = sourceOf(kind, where, repository, branch);
      await client.addFeed({ name, service: name, source, everyMs, sideBySide });
      return client.runFeed(name);
    },
    onSettled: () => queries.invalidateQueries(),
  });
  return (
    <Panel>
      <h2>Follow a contract</h2>
      <Line
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <Field label="service" value={name} onChange={setName} placeholder="berth-desk" />
        <Choice label="fetched from a" value={kind} options={KINDS} onChange={setKind} />
        <Field label={LABELS[kind]} value={where} onChange={setWhere} placeholder={PLACEHOLDERS[kind]} />
        <Field label="every (minutes)" value={minutes} onChange={setMinutes} />
        <Button type="submit" data-kind="main" isDisabled={name === '' || where === '' || add.isPending}>
          Follow
        </Button>
        {kind === 'git' && (
          <Git>
            <Field label="repository" value={repository} onChange={setRepository} placeholder="/srv/harbour.git" />
            <Field label="branch" value={branch} onChange={setBranch} placeholder="main" />
          </Git>
        )}
        <Git>
          <TickBox isSelected={sideBySide} onChange={setSideBySide}>
            each version becomes a service beside the one before
          </TickBox>
        </Git>
      </Line>
      {add.error !== null && <Trouble>{describeError(add.error)}</Trouble>}
    </Panel>
  );
}

const PLACEHOLDERS = {
  url: 'http://127.0.0.1:4691/openapi.yaml',
  git: 'api/berth-desk.openapi.yaml',
  file: '/srv/berth-desk.openapi.yaml',
} as const;

function sourceOf(
  kind: (typeof KINDS)[number],
  where: string,
  repository: string,
  branch: string,
): FeedStart['source'] {
  if (kind === 'url') return { kind, url: where };
  return kind === 'file'
    ? { kind, path: where }
    : { kind, repository, branch: branch === '' ? null : branch, path: where };
}

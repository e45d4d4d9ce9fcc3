import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { DraftView, Saved } from '@upsetter/core/wire';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError, mistakesOf } from '../api/describe-error.js';
import { servicesQuery } from '../api/queries.js';
import { LazyEditor } from '../editor/LazyEditor.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { FilesBeside } from '../ui/FilesBeside.js';
import { formatCount } from '../ui/format.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';

const Line = styled.div`
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: ${space.s} ${space.m};
`;

const File = styled.div`
  max-height: calc(100vh - 330px);
  min-height: 240px;
  overflow: auto;
`;

/** The resulting file, to be looked over and mended; adopting it makes it a service. */
export function AdoptPanel({ draft, take }: { readonly draft: DraftView; readonly take: string }) {
  const [text, setText] = useState(draft.text);
  const queries = useQueryClient();
  const { data: services } = useQuery(servicesQuery);
  const known = services?.find(({ name }) => name === draft.service);
  const adopt = useMutation({
    mutationFn: (merge: boolean) =>
      client.saveService(draft.service, text, { files: draft.files, note: `adopted draft of the take ${take}`, merge }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['services'] }),
  });
  const { reset } = adopt;
  useEffect(() => {
    setText(draft.text);
    reset();
  }, [draft.text, reset]);
  return (
    <Panel aria-label="The file">
      <Line>
        <h2>{draft.service}</h2>
        <Faint>
          {formatCount(draft.operations, 'operation')}, {formatCount(draft.cases, 'case')}
        </Faint>
        <Button data-kind="main" onPress={() => adopt.mutate(known !== undefined)} isDisabled={adopt.isPending}>
          {known === undefined ? 'Adopt' : `Merge into revision ${known.revision}`}
        </Button>
        {known !== undefined && (
          <Button onPress={() => adopt.mutate(false)} isDisabled={adopt.isPending}>
            Replace it
          </Button>
        )}
        {adopt.data !== undefined && (
          <span role="status">
            adopted:{' '}
            <Link to="/services/$name" params={{ name: draft.service }}>
              {adopt.data.address ?? draft.service}
            </Link>
          </span>
        )}
      </Line>
      {adopt.data?.merged && <Faint role="status">{tellMerged(adopt.data.merged)}</Faint>}
      {adopt.error !== null && <Trouble>{describeError(adopt.error)}</Trouble>}
      <File>
        <LazyEditor
          text={draft.text}
          onChange={setText}
          mistakes={mistakesOf(adopt.error)}
          label={`Draft of ${draft.service}`}
        />
      </File>
      <FilesBeside files={draft.files} />
    </Panel>
  );
}

/** What merging came to, in one line; what was edited by hand is named. */
function tellMerged({ added, changed, kept, conflicts }: NonNullable<Saved['merged']>): string {
  const parts = [`${added.length} added`, `${changed.length} drafted anew`, `${kept.length} kept as edited`];
  if (conflicts.length > 0) parts.push(`edited and drafted otherwise, left as they are: ${conflicts.join(', ')}`);
  return parts.join('; ');
}

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ServiceView } from '@upsetter/core/wire';
import { lazy, Suspense, useMemo, useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError, type Mistake, mistakesOf } from '../api/describe-error.js';
import { contractReportQuery } from '../api/queries.js';
import { LazyEditor } from '../editor/LazyEditor.js';
import { useEditedText } from '../editor/useEditedText.js';
import { space } from '../theme/tokens.js';
import { Choice } from '../ui/Choice.js';
import { FilesBeside } from '../ui/FilesBeside.js';
import { Faint } from '../ui/Panel.js';
import { Mistakes } from './Mistakes.js';
import { SaveLine } from './SaveLine.js';

const Column = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.s};
`;

const Head = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: center;
`;

const NONE: readonly Mistake[] = [];
const WHOLE = [] as const;
const MODES = ['text', 'form'] as const;
const FileForm = lazy(() => import('../form/FileForm.js'));

/** What differs from the contract, on its line; of the text as it is saved. */
function useFindings({ name, revision }: ServiceView): readonly Mistake[] {
  const { data: report } = useQuery(contractReportQuery(name, revision));
  return useMemo(
    () =>
      (report?.cases ?? []).flatMap((own) =>
        own.findings.map(({ at, message, rule, line, column }) => ({
          message: `${at} ${message} (contract ${rule})`,
          line,
          column,
          path: '',
        })),
      ),
    [report],
  );
}

/** The service as its file: saved whole or refused whole, with the mistakes on their lines. */
export function FileView({ service }: { readonly service: ServiceView }) {
  const edited = useEditedText({ text: service.file, revision: service.revision });
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: () =>
      client.saveService(service.name, edited.text, {
        note: 'edited in the console',
        basedOn: edited.basedOn.revision,
      }),
    onSuccess: ({ revision }) => {
      edited.markSaved(revision);
      return queries.invalidateQueries({ queryKey: ['services'] });
    },
  });
  const [mode, setMode] = useState<(typeof MODES)[number]>('text');
  // The editor begins with what the form made of the text; what is typed there is its own.
  // biome-ignore lint/correctness/useExhaustiveDependencies: not at each key
  const shown = useMemo(() => edited.text, [mode, edited.basedOn.text]);
  const mistakes = mistakesOf(save.error);
  const findings = useFindings(service);
  return (
    <Column>
      <Head>
        <SaveLine
          what="file"
          edited={edited}
          isPending={save.isPending}
          isSaved={save.isSuccess}
          onSave={() => save.mutate()}
        />
        <Choice label="" said="Edited as" value={mode} options={MODES} onChange={setMode} />
      </Head>
      {save.error !== null && <Mistakes title={describeError(save.error)} mistakes={mistakes} showLines />}
      {mode === 'form' ? (
        <Suspense fallback={<Faint>loading the form ...</Faint>}>
          <FileForm text={edited.text} onChange={edited.setText} />
        </Suspense>
      ) : (
        <LazyEditor
          text={shown}
          onChange={edited.setText}
          mistakes={mistakes}
          findings={edited.isChanged ? NONE : findings}
          label={`Service file of ${service.name}`}
          place={WHOLE}
        />
      )}
      <FilesBeside files={service.files} />
    </Column>
  );
}

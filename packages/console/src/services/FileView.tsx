import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ServiceView } from '@upsetter/core/wire';
import { useMemo } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError, type Mistake, mistakesOf } from '../api/describe-error.js';
import { contractReportQuery } from '../api/queries.js';
import { LazyEditor } from '../editor/LazyEditor.js';
import { useEditedText } from '../editor/useEditedText.js';
import { space } from '../theme/tokens.js';
import { FilesBeside } from '../ui/FilesBeside.js';
import { Mistakes } from './Mistakes.js';
import { SaveLine } from './SaveLine.js';

const Column = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.s};
`;

const NONE: readonly Mistake[] = [];

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
  const mistakes = mistakesOf(save.error);
  const findings = useFindings(service);
  return (
    <Column>
      <SaveLine
        what="file"
        edited={edited}
        isPending={save.isPending}
        isSaved={save.isSuccess}
        onSave={() => save.mutate()}
      />
      {save.error !== null && <Mistakes title={describeError(save.error)} mistakes={mistakes} showLines />}
      <LazyEditor
        text={edited.basedOn.text}
        onChange={edited.setText}
        mistakes={mistakes}
        findings={edited.isChanged ? NONE : findings}
        label={`Service file of ${service.name}`}
      />
      <FilesBeside files={service.files} />
    </Column>
  );
}

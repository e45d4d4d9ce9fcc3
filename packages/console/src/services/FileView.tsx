import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ServiceView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError, mistakesOf } from '../api/describe-error.js';
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
        label={`Service file of ${service.name}`}
      />
      <FilesBeside files={service.files} />
    </Column>
  );
}

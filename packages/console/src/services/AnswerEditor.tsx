import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { CaseView, ServiceView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError, mistakesOf } from '../api/describe-error.js';
import { LazyEditor } from '../editor/LazyEditor.js';
import { useEditedText } from '../editor/useEditedText.js';
import { color, space } from '../theme/tokens.js';
import { Mistakes } from './Mistakes.js';
import { SaveLine } from './SaveLine.js';

const Box = styled.div`
  padding: ${space.s} ${space.m} ${space.m};
  background: ${color.sunken};
  display: flex;
  flex-direction: column;
  gap: ${space.s};
`;

const ANSWER = ['operations', 'any', 'cases', null, 'answer'] as const;

export interface AnswerEditorProps {
  readonly service: ServiceView;
  readonly operation: string;
  readonly item: CaseView;
}

/** The answer of one case, edited in place; saved, it answers the very next call. The rest of the file stays as it is. */
export function AnswerEditor({ service, operation, item }: AnswerEditorProps) {
  const edited = useEditedText({ text: item.answerText, revision: service.revision });
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: () => client.saveAnswer(service.name, operation, item.case, edited.text, edited.basedOn.revision),
    onSuccess: ({ revision }) => {
      edited.markSaved(revision);
      return queries.invalidateQueries({ queryKey: ['services'] });
    },
  });
  const mistakes = mistakesOf(save.error);
  const isInAnswer = mistakes.every((mistake) => mistake.path === 'answer');
  return (
    <Box>
      <LazyEditor
        text={edited.basedOn.text}
        onChange={edited.setText}
        mistakes={isInAnswer ? mistakes : []}
        label={`Answer of ${operation}, ${item.case}`}
        place={ANSWER}
      />
      <SaveLine
        what="answer"
        edited={edited}
        isPending={save.isPending}
        isSaved={save.isSuccess}
        onSave={() => save.mutate()}
      />
      {save.error !== null && <Mistakes title={describeError(save.error)} mistakes={mistakes} showLines={isInAnswer} />}
    </Box>
  );
}

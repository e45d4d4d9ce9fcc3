import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { CaseView, ServiceView } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError, mistakesOf } from '../api/describe-error.js';
import { LazyEditor } from '../editor/LazyEditor.js';
import { color, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Faint } from '../ui/Panel.js';
import { Mistakes } from './Mistakes.js';

const Box = styled.div`
  padding: ${space.s} ${space.m} ${space.m};
  background: ${color.sunken};
  display: flex;
  flex-direction: column;
  gap: ${space.s};
`;

const Actions = styled.div`
  display: flex;
  align-items: center;
  gap: ${space.s};
`;

export interface AnswerEditorProps {
  readonly service: ServiceView;
  readonly operation: string;
  readonly item: CaseView;
}

/** The answer of one case, edited in place; saved, it answers the very next call. The rest of the file stays as it is. */
export function AnswerEditor({ service, operation, item }: AnswerEditorProps) {
  const [text, setText] = useState(item.answerText);
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: () => client.saveAnswer(service.name, operation, item.case, text, service.revision),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['services'] }),
  });
  const mistakes = mistakesOf(save.error);
  const isInAnswer = mistakes.every((mistake) => mistake.path === 'answer');
  return (
    <Box>
      <LazyEditor
        text={item.answerText}
        onChange={setText}
        mistakes={isInAnswer ? mistakes : []}
        label={`Answer of ${operation}, ${item.case}`}
      />
      <Actions>
        <Button data-kind="main" onPress={() => save.mutate()} isDisabled={save.isPending || text === item.answerText}>
          Save answer
        </Button>
        <Faint role="status">
          {save.isSuccess && text === item.answerText
            ? `saved as revision ${service.revision}: the next call gets it`
            : ''}
        </Faint>
      </Actions>
      {save.error !== null && <Mistakes title={describeError(save.error)} mistakes={mistakes} showLines={isInAnswer} />}
    </Box>
  );
}

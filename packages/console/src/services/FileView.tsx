import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ServiceView } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError, mistakesOf } from '../api/describe-error.js';
import { LazyEditor } from '../editor/LazyEditor.js';
import { space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Faint } from '../ui/Panel.js';
import { Mistakes } from './Mistakes.js';

const Column = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.s};
`;

const Actions = styled.div`
  display: flex;
  align-items: center;
  gap: ${space.s};
`;

/** The service as its file: saved whole or refused whole, with the mistakes on their lines. */
export function FileView({ service }: { readonly service: ServiceView }) {
  const [text, setText] = useState(service.file);
  const [basedOn, setBasedOn] = useState({ file: service.file, revision: service.revision });
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: () =>
      client.saveService(service.name, text, { note: 'edited in the console', basedOn: basedOn.revision }),
    onSuccess: (saved) => {
      setBasedOn({ file: text, revision: saved.revision });
      return queries.invalidateQueries({ queryKey: ['services'] });
    },
  });
  const isStale = service.revision > basedOn.revision;
  const readAgain = (): void => {
    setBasedOn({ file: service.file, revision: service.revision });
    setText(service.file);
  };
  const mistakes = mistakesOf(save.error);
  return (
    <Column>
      <Actions>
        <Button data-kind="main" onPress={() => save.mutate()} isDisabled={save.isPending || text === basedOn.file}>
          Save file
        </Button>
        {isStale && <Button onPress={readAgain}>Read revision {service.revision}</Button>}
        <Faint role="status">{statusOf(text !== basedOn.file, isStale, save.isSuccess, basedOn.revision)}</Faint>
      </Actions>
      {save.error !== null && <Mistakes title={describeError(save.error)} mistakes={mistakes} showLines />}
      <LazyEditor
        text={basedOn.file}
        onChange={setText}
        mistakes={mistakes}
        label={`Service file of ${service.name}`}
      />
    </Column>
  );
}

function statusOf(isChanged: boolean, isStale: boolean, isSaved: boolean, revision: number): string {
  if (isStale) return 'somebody has saved a later revision';
  if (isChanged) return 'not saved yet';
  return isSaved ? `saved as revision ${revision}: the next call gets it` : `revision ${revision}`;
}

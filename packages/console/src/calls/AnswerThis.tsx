import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { Button } from '../ui/Button.js';
import { Trouble } from '../ui/Panel.js';

/** Gives a call a case of its own and opens it, to be edited: what is saved there answers the next such call. */
export function AnswerThis({ id }: { readonly id: string }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const answer = useMutation({
    mutationFn: () => client.answerCall(id),
    onSuccess: async ({ service, operation, case: name }) => {
      await queries.invalidateQueries({ queryKey: ['services'] });
      await navigate({ to: '/services/$name', params: { name: service }, search: { operation, case: name } });
    },
  });
  return (
    <>
      <Button onPress={() => answer.mutate()} isDisabled={answer.isPending}>
        {answer.isPending ? 'saving ...' : 'Answer this one'}
      </Button>
      {answer.error !== null && <Trouble>{describeError(answer.error)}</Trouble>}
    </>
  );
}

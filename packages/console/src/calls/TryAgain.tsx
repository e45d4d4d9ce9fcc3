import { useNavigate } from '@tanstack/react-router';
import type { CallDetail } from '@upsetter/core/wire';
import { Button } from '../ui/Button.js';
import type { WrittenCall } from './call-as-code.js';
import { keepTried, toTried } from './tried-calls.js';

/** Opens the service with this call filled in under Try, in the lane it came in. */
export function TryAgain({ call, written }: { readonly call: CallDetail; readonly written: WrittenCall }) {
  const navigate = useNavigate();
  const open = (): void => {
    keepTried(call.service, toTried(written));
    const lane = call.lane === 'main' ? undefined : call.lane;
    void navigate({ to: '/services/$name', params: { name: call.service }, search: { lane } });
  };
  return <Button onPress={open}>Try again</Button>;
}

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import type { ContractReport, ServiceView, WantedPart } from '@upsetter/core/wire';
import styled from 'styled-components';
import { client } from '../api/client.js';
import { describeError } from '../api/describe-error.js';
import { color, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { Address } from '../ui/Method.js';
import { Faint, Panel, Trouble } from '../ui/Panel.js';

const Row = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: ${space.m};
  align-items: center;
  padding: ${space.xs} 0;
  border-top: 1px solid ${color.hairline};
`;

interface MissingPartsProps {
  readonly service: ServiceView;
  readonly report: ContractReport;
}

/** What the contract has and the service has not; each is added by one press, and opened to be edited. */
export function MissingParts({ service, report }: MissingPartsProps) {
  const add = useAddPart(service);
  const count = report.missing.length + report.incomplete.length;
  if (count === 0) return null;
  return (
    <Panel>
      <h2>Missing</h2>
      {add.error !== null && <Trouble>{describeError(add.error)}</Trouble>}
      {report.missing.map(({ on, at }) => (
        <Part key={on} what={on} add={add} wanted={{ kind: 'operation', on }}>
          <Address on={on} /> <Faint>{at}</Faint>
        </Part>
      ))}
      {report.incomplete.map(({ operation, code, at }) => (
        <Part
          key={`${operation} ${code}`}
          what={`${operation} ${code}`}
          add={add}
          wanted={{ kind: 'response', operation, code }}
        >
          {operation} answers nothing with {code} <Faint>{at}</Faint>
        </Part>
      ))}
      {count > 1 && (
        <div>
          <Button onPress={() => add.mutate(null)} isDisabled={add.isPending}>
            Add all
          </Button>
        </div>
      )}
    </Panel>
  );
}

interface PartProps {
  readonly what: string;
  readonly wanted: WantedPart;
  readonly add: ReturnType<typeof useAddPart>;
  readonly children: React.ReactNode;
}

function Part({ what, wanted, add, children }: PartProps) {
  return (
    <Row>
      <span>{children}</span>
      <Button aria-label={`Add ${what}`} onPress={() => add.mutate(wanted)} isDisabled={add.isPending}>
        Add
      </Button>
    </Row>
  );
}

/** Adds a part and goes to where it stands now. */
function useAddPart(service: ServiceView) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: async (wanted: WantedPart | null) => {
      const { file, files, added } = await client.completeService(service.name, wanted);
      const note = `added from the contract: ${added.join(', ')}`;
      await client.saveService(service.name, file, { files, note, basedOn: service.revision });
      return { wanted, added };
    },
    onSuccess: async ({ wanted, added }) => {
      await queries.invalidateQueries({ queryKey: ['services'] });
      const [first = ''] = added;
      const [operation = '', name] = first.split(' / ');
      if (wanted === null || first === '') return;
      await navigate({
        to: '/services/$name',
        params: { name: service.name },
        search: name === undefined ? { operation } : { operation, case: name },
      });
    },
  });
}

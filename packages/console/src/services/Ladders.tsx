import { getRouteApi, useNavigate } from '@tanstack/react-router';
import type { CaseView, OperationView, ServiceView } from '@upsetter/core/wire';
import styled, { css } from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';
import { Address } from '../ui/Method.js';
import { Empty, Faint } from '../ui/Panel.js';
import { AnswerEditor } from './AnswerEditor.js';

const route = getRouteApi('/services/$name');

const Operation = styled.section`
  margin-bottom: ${space.l};
  h2 { font-size: 15px; display: flex; gap: ${space.m}; align-items: baseline; flex-wrap: wrap; font-weight: 400; }
  h2 strong { font-weight: 700; }
`;

const Rungs = styled.ol`
  list-style: none;
  margin: ${space.xs} 0 0;
  padding: 0;
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  > li + li { border-top: 1px solid ${color.hairline}; }
`;

const rungLayout = css`
  display: grid;
  grid-template-columns: 20px minmax(0, 1fr) auto;
  gap: ${space.s};
  padding: 6px ${space.m};
  .place { color: ${color.faint}; }
  .wanted { font-family: 'JetBrains Mono', monospace; font-size: 12.5px; overflow-wrap: anywhere; }
`;

/** The case of a resource or of the token endpoint has no answer of its own to edit. */
const Served = styled.li`
  ${rungLayout}
`;

const Rung = styled.button`
  all: unset;
  box-sizing: border-box;
  width: 100%;
  ${rungLayout}
  cursor: pointer;
  &:hover { background: ${color.sunken}; }
  &:focus-visible { outline: 2px solid ${color.water}; outline-offset: -2px; }
`;

const Unreachable = styled.em`
  display: block;
  font-style: normal;
  color: ${color.brass};
`;

/** The operations in file order, under each its cases as a ladder: the first whose conditions hold answers. */
export function Ladders({ service }: { readonly service: ServiceView }) {
  if (service.operationList.length === 0) {
    return <Empty>No operations yet: write the first one in the file.</Empty>;
  }
  return service.operationList.map((operation) => (
    <Ladder key={operation.name} service={service} operation={operation} />
  ));
}

function Ladder({ service, operation }: { readonly service: ServiceView; readonly operation: OperationView }) {
  return (
    <Operation aria-label={operation.name}>
      <h2>
        <strong>{operation.name}</strong>
        <Address on={operation.on} />
        <Faint>{operation.title}</Faint>
      </h2>
      <Rungs>
        {operation.cases.map((item, i) => (
          <Case key={item.case} service={service} operation={operation.name} item={item} position={i + 1} />
        ))}
        {operation.cases.length === 0 && (
          <li>
            <Faint>no cases yet: every call here is a stray</Faint>
          </li>
        )}
      </Rungs>
    </Operation>
  );
}

interface CaseProps {
  readonly service: ServiceView;
  readonly operation: string;
  readonly item: CaseView;
  readonly position: number;
}

/** One rung: its conditions and status; opened, its answer to edit in place. */
function Case({ service, operation, item, position }: CaseProps) {
  const search = route.useSearch();
  const navigate = useNavigate();
  const isOpen = search.operation === operation && search.case === item.case;
  const toggle = (): void => {
    const next = isOpen ? {} : { operation, case: item.case };
    void navigate({ to: '/services/$name', params: { name: service.name }, search: next });
  };
  if (item.added !== null)
    return (
      <Served>
        <RungText item={item} position={position} end={item.added} />
      </Served>
    );
  return (
    <li>
      <Rung onClick={toggle} aria-expanded={isOpen}>
        <RungText item={item} position={position} end={statusText(item.answer)} />
      </Rung>
      {isOpen && <AnswerEditor service={service} operation={operation} item={item} />}
    </li>
  );
}

interface RungTextProps {
  readonly item: CaseView;
  readonly position: number;
  readonly end: string;
}

function RungText({ item, position, end }: RungTextProps) {
  return (
    <>
      <Faint>{position}</Faint>
      <span>
        <strong>{item.case}</strong> <Conditions item={item} />
        {item.unreachable !== null && <Unreachable>◌ {item.unreachable}</Unreachable>}
      </span>
      <span>{end}</span>
    </>
  );
}

function Conditions({ item }: { readonly item: CaseView }) {
  if (item.when.length === 0) return <Faint>whatever comes</Faint>;
  return item.when.map(({ place, wanted }, i) => (
    <span key={place}>
      <span className="place">
        {i > 0 ? ' and ' : ''}
        {place}
      </span>{' '}
      <span className="wanted">{wanted}</span>
    </span>
  ));
}

/** The status, as far as the file says it; a fault's goes by the version of SOAP. */
function statusText({ status, none, soapFault }: CaseView['answer']): string {
  if (status !== undefined) return String(status);
  return soapFault !== undefined ? 'fault' : none === true ? '204' : '200';
}

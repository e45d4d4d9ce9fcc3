import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { ContractReport, ServiceView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { contractReportQuery } from '../api/queries.js';
import { color, font, space } from '../theme/tokens.js';
import { formatCount } from '../ui/format.js';
import { Empty, Faint, Panel, Trouble } from '../ui/Panel.js';
import { MissingParts } from './MissingParts.js';

const Column = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.l};
`;

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  > li { padding: ${space.s} 0; border-top: 1px solid ${color.hairline}; overflow-wrap: anywhere; }
  > li:first-child { border-top: none; }
  ul { margin: ${space.xs} 0 0; padding-left: ${space.l}; }
  code { font: 12.5px ${font.mono}; }
`;

/** How a service keeps to its contract: cases that differ, with the place in the file and the rule, and what is missing. */
export function ContractView({ service }: { readonly service: ServiceView }) {
  const { data: report, error } = useQuery(contractReportQuery(service.name, service.revision));
  if (error !== null) return <Trouble>{describeError(error)}</Trouble>;
  if (report === undefined) return <Faint>holding the cases against the contract ...</Faint>;
  if (report === null)
    return (
      <Empty>
        This service names no contract. Put an OpenAPI document beside its file and write{' '}
        <code>contract: ./{service.name}.openapi.yaml</code> into it.
      </Empty>
    );
  return (
    <Column>
      <Summary report={report} />
      <Differing service={service} report={report} />
      <MissingParts service={service} report={report} />
      <Lost report={report} />
      <Silent report={report} />
    </Column>
  );
}

const RULES = {
  report: 'calls that differ are reported',
  refuse: 'calls that differ are refused',
  ignore: 'calls are not checked',
} as const;

function Summary({ report }: { readonly report: ContractReport }) {
  const held = report.cases.filter(({ outcome }) => outcome === 'holds').length;
  const differing = report.cases.filter(({ outcome }) => outcome === 'differs').length + report.unknown.length;
  return (
    <p>
      <code>{report.file}</code>, {RULES[report.calls]}. {formatCount(held, 'case')} as the contract says,{' '}
      {differing === 0 ? 'none' : differing} not.
    </p>
  );
}

function Differing({ service, report }: { readonly service: ServiceView; readonly report: ContractReport }) {
  const differing = report.cases.filter(({ outcome }) => outcome === 'differs');
  if (differing.length + report.unknown.length === 0) return null;
  return (
    <Panel>
      <h2>Not as the contract says</h2>
      <List>
        {differing.map((own) => (
          <li key={`${own.operation} ${own.case}`}>
            <Link
              to="/services/$name"
              params={{ name: service.name }}
              search={{ operation: own.operation, case: own.case }}
            >
              {own.operation} / {own.case}
            </Link>
            <ul>
              {own.findings.map(({ at, message, rule, line }) => (
                <li key={`${at} ${message}`}>
                  <code>{at}</code> {message}{' '}
                  <Faint>
                    line {line} of the file, by {rule}
                  </Faint>
                </li>
              ))}
            </ul>
          </li>
        ))}
        {report.unknown.map(({ operation, on, line }) => (
          <li key={operation}>
            {operation}: <code>{on}</code> is not in the contract <Faint>line {line} of the file</Faint>
          </li>
        ))}
      </List>
    </Panel>
  );
}

function Silent({ report }: { readonly report: ContractReport }) {
  const silent = report.cases.filter(({ outcome }) => outcome === 'not called');
  if (silent.length === 0) return null;
  return (
    <Panel>
      <h2>Not called</h2>
      <Faint>No made-up call leads to these cases: they need state, or an expression holds them back.</Faint>
      <List>
        {silent.map((own) => (
          <li key={`${own.operation} ${own.case}`}>
            {own.operation} / {own.case}
          </li>
        ))}
      </List>
    </Panel>
  );
}

function Lost({ report: { lost } }: { readonly report: ContractReport }) {
  if (lost.length === 0) return null;
  return (
    <Panel>
      <h2>Not read</h2>
      <Faint>What needs these documents of the contract says nothing; the rest holds.</Faint>
      <List>
        {lost.map(({ at, reason }) => (
          <li key={at}>
            <code>{at}</code> {reason}
          </li>
        ))}
      </List>
    </Panel>
  );
}

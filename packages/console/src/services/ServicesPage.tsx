import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import type { ServiceSummary } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { servicesQuery } from '../api/queries.js';
import { color, space } from '../theme/tokens.js';
import { CopyButton } from '../ui/CopyButton.js';
import { formatCount } from '../ui/format.js';
import { Empty, Faint, Trouble } from '../ui/Panel.js';
import { NewService } from './NewService.js';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  margin-top: ${space.m};
  th { text-align: left; font-weight: 400; font-size: 13px; color: ${color.faint}; padding: ${space.xs} ${space.l} ${space.xs} 0; }
  td { padding: ${space.s} ${space.l} ${space.s} 0; border-top: 1px solid ${color.hairline}; vertical-align: top; }
  .number, th.number { text-align: right; }
  .name { font-weight: 700; }
  .stray { color: ${color.brass}; }
  .holds { color: ${color.lichen}; }
  .upset { color: ${color.plum}; }
  .trouble { color: ${color.vermilion}; }
`;

/** The catalogue: every service with its address, its traffic and what upsets it. */
export function ServicesPage() {
  const { data: services, error } = useQuery(servicesQuery);
  return (
    <>
      <h1>Services</h1>
      {error !== null && <Trouble>{describeError(error)}</Trouble>}
      {services?.length === 0 && (
        <Empty>
          No services yet. Make one from recorded traffic with <code>upsetter draft har FILE --adopt</code>, from a
          contract with <code>upsetter draft openapi FILE --adopt</code>, or write a service file and{' '}
          <code>upsetter apply FILE</code>.
        </Empty>
      )}
      {services !== undefined && services.length > 0 && <Catalogue services={services} />}
      <NewService />
    </>
  );
}

function Catalogue({ services }: { readonly services: readonly ServiceSummary[] }) {
  return (
    <Table>
      <thead>
        <tr>
          <th>service</th>
          <th>address</th>
          <th className="number">operations</th>
          <th className="number">cases</th>
          <th className="number">calls a minute</th>
          <th className="number">strays</th>
          <th>contract</th>
          <th>upset by</th>
        </tr>
      </thead>
      <tbody>
        {services.map((service) => (
          <Row key={service.name} service={service} />
        ))}
      </tbody>
    </Table>
  );
}

function Row({ service }: { readonly service: ServiceSummary }) {
  const { name, version, title, address, trouble } = service;
  return (
    <tr>
      <td>
        <Link className="name" to="/services/$name" params={{ name }}>
          {name}
        </Link>{' '}
        <Faint>{version}</Faint>
        {title !== null && (
          <div>
            <Faint>{title}</Faint>
          </div>
        )}
      </td>
      <td>
        {address === null ? (
          <span className="trouble">{trouble}</span>
        ) : (
          <>
            <code>{address}</code>
            <CopyButton text={address} what={`the address of ${name}`} />
          </>
        )}
      </td>
      <td className="number">{service.operations}</td>
      <td className="number">{service.cases}</td>
      <td className="number">{service.callsLastMinute}</td>
      <td className={service.straysLastMinute > 0 ? 'number stray' : 'number'}>{service.straysLastMinute}</td>
      <td>
        <ContractCell service={service} />
      </td>
      <td>
        {service.upsetsInForce.length > 0 ? (
          <span className="upset">▲ {service.upsetsInForce.join(', ')}</span>
        ) : (
          <Faint>calm</Faint>
        )}
      </td>
    </tr>
  );
}

/** Nothing for a service that names no contract. */
function ContractCell({ service: { name, contractFindings } }: { readonly service: ServiceSummary }) {
  if (contractFindings === null) return null;
  return (
    <Link
      className={contractFindings > 0 ? 'stray' : 'holds'}
      to="/services/$name"
      params={{ name }}
      search={{ view: 'contract' }}
    >
      {contractFindings > 0 ? formatCount(contractFindings, 'finding') : 'holds'}
    </Link>
  );
}

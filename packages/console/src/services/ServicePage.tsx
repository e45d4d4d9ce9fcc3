import { useQuery } from '@tanstack/react-query';
import { getRouteApi, Link } from '@tanstack/react-router';
import type { ServiceView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { serviceQuery } from '../api/queries.js';
import { ContractView } from '../contracts/ContractView.js';
import { LanesView } from '../lanes/LanesView.js';
import { color, space } from '../theme/tokens.js';
import { TrialsView } from '../trials/TrialsView.js';
import { CopyButton } from '../ui/CopyButton.js';
import { formatCount } from '../ui/format.js';
import { Faint, Trouble } from '../ui/Panel.js';
import { FileView } from './FileView.js';
import { Ladders } from './Ladders.js';
import { RefusedPanel } from './RefusedPanel.js';
import { TryPanel } from './TryPanel.js';
import { UpsetPanel } from './UpsetPanel.js';

const route = getRouteApi('/services/$name');

const Head = styled.div`
  display: flex;
  align-items: baseline;
  flex-wrap: wrap;
  gap: ${space.xs} ${space.l};
  margin-bottom: ${space.m};
`;

const Views = styled.div`
  display: flex;
  gap: ${space.l};
  margin-bottom: ${space.s};
  border-bottom: 1px solid ${color.hairline};
  a { color: ${color.ink}; text-decoration: none; padding-bottom: ${space.xs}; border-bottom: 2px solid transparent; }
  a[data-current] { color: ${color.water}; border-color: ${color.water}; font-weight: 700; }
  .count { color: ${color.brass}; font-weight: 400; }
`;

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 350px;
  gap: ${space.l};
  align-items: start;
`;

const Side = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space.l};
`;

/** One service, top to bottom like its file: header, ladders of cases (or the file as text), upsets and Try beside them. */
export function ServicePage() {
  const { name } = route.useParams();
  const { view, lane = 'main' } = route.useSearch();
  const { data: service, error } = useQuery(serviceQuery(name));
  if (error !== null && service === undefined) return <Trouble>{describeError(error)}</Trouble>;
  if (service === undefined) return <Faint>loading ...</Faint>;
  return (
    <>
      <Header service={service} />
      {view === 'trials' ? (
        <Body service={service} />
      ) : (
        <Columns>
          <Body service={service} />
          <Side>
            <UpsetPanel service={service} />
            <TryPanel service={service} lane={lane} />
            <RefusedPanel refused={service.refusedConnections} />
          </Side>
        </Columns>
      )}
    </>
  );
}

function Header({ service }: { readonly service: ServiceView }) {
  return (
    <Head>
      <h1>{service.name}</h1>
      {service.version !== null && <Faint>version {service.version}</Faint>}
      {service.address === null ? (
        <Trouble>{service.trouble}</Trouble>
      ) : (
        <span>
          <code>{service.address}</code>
          <CopyButton text={service.address} what="the address" />
        </span>
      )}
      <Faint>
        revision {service.revision}, {formatCount(service.callsLastMinute, 'call')} in the last minute
      </Faint>
    </Head>
  );
}

function Body({ service }: { readonly service: ServiceView }) {
  const { view, trial, lane } = route.useSearch();
  const { name } = service;
  return (
    <div>
      <Views>
        <Link to="/services/$name" params={{ name }} data-current={view === undefined ? true : undefined}>
          Cases
        </Link>
        <Link
          to="/services/$name"
          params={{ name }}
          search={{ view: 'file' }}
          data-current={view === 'file' ? true : undefined}
        >
          File
        </Link>
        <Link
          to="/services/$name"
          params={{ name }}
          search={{ view: 'contract' }}
          data-current={view === 'contract' ? true : undefined}
        >
          Contract
          {service.contractFindings !== null && service.contractFindings > 0 && (
            <span className="count"> {formatCount(service.contractFindings, 'finding')}</span>
          )}
        </Link>
        <Link
          to="/services/$name"
          params={{ name }}
          search={{ view: 'trials' }}
          data-current={view === 'trials' ? true : undefined}
        >
          Trials
        </Link>
        <Link
          to="/services/$name"
          params={{ name }}
          search={{ view: 'lanes', lane }}
          data-current={view === 'lanes' ? true : undefined}
        >
          Lanes
        </Link>
      </Views>
      {view === 'file' && <FileView service={service} />}
      {view === 'contract' && <ContractView service={service} />}
      {view === 'trials' && <TrialsView service={service} trial={trial} />}
      {view === 'lanes' && <LanesView service={name} chosen={lane ?? 'main'} />}
      {view === undefined && <Ladders service={service} />}
    </div>
  );
}

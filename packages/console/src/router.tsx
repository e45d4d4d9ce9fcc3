import { createRootRoute, createRoute, createRouter, redirect } from '@tanstack/react-router';
import { CallPage } from './calls/CallPage.js';
import { CallsPage } from './calls/CallsPage.js';
import { ContractsPage } from './contracts/ContractsPage.js';
import { Shell } from './layout/Shell.js';
import { ServicePage } from './services/ServicePage.js';
import { ServicesPage } from './services/ServicesPage.js';
import { TakePage } from './takes/TakePage.js';
import { TakesPage } from './takes/TakesPage.js';
import { Empty } from './ui/Panel.js';

const text = (value: unknown): string | undefined =>
  typeof value === 'string' || typeof value === 'number' ? String(value) : undefined;
const flag = (value: unknown): true | undefined => (value === true || value === 'true' ? true : undefined);
const given = <T extends object>(search: T): T =>
  Object.fromEntries(Object.entries(search).filter(([, value]) => value !== undefined)) as T;

const root = createRootRoute({
  component: Shell,
  notFoundComponent: () => <Empty>Nothing here. Try Services, Takes, Calls or Contracts above.</Empty>,
});

const home = createRoute({
  getParentRoute: () => root,
  path: '/',
  beforeLoad: () => {
    throw redirect({ to: '/services' });
  },
});

const services = createRoute({ getParentRoute: () => root, path: '/services', component: ServicesPage });

const VIEWS = ['file', 'contract', 'trials', 'lanes'] as const;

interface ServiceSearch {
  readonly view?: 'file' | 'contract' | 'trials' | 'lanes' | undefined;
  /** The trial that is looked at. */
  readonly trial?: string | undefined;
  readonly operation?: string | undefined;
  /** The lane that Try calls in; left out: main. */
  readonly lane?: string | undefined;
  readonly case?: string | undefined;
}

const service = createRoute({
  getParentRoute: () => root,
  path: '/services/$name',
  component: ServicePage,
  validateSearch: (search: Record<string, unknown>): ServiceSearch =>
    given({
      view: VIEWS.find((view) => view === search['view']),
      trial: text(search['trial']),
      lane: text(search['lane']),
      operation: text(search['operation']),
      case: text(search['case']),
    }),
});

const takes = createRoute({ getParentRoute: () => root, path: '/takes', component: TakesPage });

interface TakeSearch {
  readonly view?: 'draft' | undefined;
  readonly exchange?: number | undefined;
}

const take = createRoute({
  getParentRoute: () => root,
  path: '/takes/$name',
  component: TakePage,
  validateSearch: (search: Record<string, unknown>): TakeSearch =>
    given({
      view: search['view'] === 'draft' ? ('draft' as const) : undefined,
      exchange: Number.isInteger(search['exchange']) ? (search['exchange'] as number) : undefined,
    }),
});

interface CallsSearch {
  readonly service?: string | undefined;
  readonly strays?: boolean | undefined;
  readonly findings?: boolean | undefined;
  /** Preflights of browsers are folded away unless they are asked for. */
  readonly preflights?: boolean | undefined;
}

const calls = createRoute({
  getParentRoute: () => root,
  path: '/calls',
  component: CallsPage,
  validateSearch: (search: Record<string, unknown>): CallsSearch =>
    given({
      service: text(search['service']),
      strays: flag(search['strays']),
      findings: flag(search['findings']),
      preflights: flag(search['preflights']),
    }),
});

const contracts = createRoute({ getParentRoute: () => root, path: '/contracts', component: ContractsPage });

const call = createRoute({ getParentRoute: () => root, path: '/calls/$id', component: CallPage });

export const router = createRouter({
  routeTree: root.addChildren([home, services, service, takes, take, calls, call, contracts]),
  defaultPreload: false,
});

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router;
  }
}

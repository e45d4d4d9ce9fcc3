import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query';
import { client } from './client.js';

const CATALOGUE_EVERY_MS = 3_000;

export const servicesQuery = queryOptions({
  queryKey: ['services'],
  queryFn: () => client.listServices(),
  refetchInterval: CATALOGUE_EVERY_MS,
});

export const serviceQuery = (name: string) =>
  queryOptions({
    queryKey: ['services', name],
    queryFn: () => client.readService(name),
    refetchInterval: CATALOGUE_EVERY_MS,
  });

/** What the editor completes and explains keys by: the same as long as the service runs. */
export const schemaQuery = queryOptions({
  queryKey: ['service file schema'],
  queryFn: () => client.readServiceFileSchema(),
  staleTime: Number.POSITIVE_INFINITY,
});

/** Asked for anew at each revision: the service makes it once for each. */
export const contractReportQuery = (name: string, revision: number) =>
  queryOptions({
    queryKey: ['contract', name, revision],
    queryFn: () => client.readContractReport(name),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Each call changes what is known of its lane. */
const LANES_EVERY_MS = 1_500;

export const lanesQuery = queryOptions({
  queryKey: ['lanes'],
  queryFn: () => client.listLanes(),
  refetchInterval: LANES_EVERY_MS,
});

export const feedsQuery = queryOptions({
  queryKey: ['feeds'],
  queryFn: () => client.listFeeds(),
  refetchInterval: CATALOGUE_EVERY_MS,
});

/** While a trial runs, its steps show within this time. */
const TRIAL_EVERY_MS = 500;

export const trialsQuery = (service: string) =>
  queryOptions({
    queryKey: ['trials', service],
    queryFn: () => client.listTrials(service),
    refetchInterval: CATALOGUE_EVERY_MS,
  });

export const trialQuery = (id: string) =>
  queryOptions({
    queryKey: ['trial', id],
    queryFn: () => client.readTrial(id),
    refetchInterval: (query) =>
      query.state.data === undefined || query.state.data.state === 'running' ? TRIAL_EVERY_MS : false,
  });

/** While a take is open, what it hears shows within this time. */
const TAKE_EVERY_MS = 700;

export const takesQuery = queryOptions({
  queryKey: ['takes'],
  queryFn: () => client.listTakes(),
  refetchInterval: CATALOGUE_EVERY_MS,
});

export const takeQuery = (name: string) =>
  queryOptions({
    queryKey: ['takes', name],
    queryFn: () => client.readTake(name),
    refetchInterval: (query) => (query.state.data?.state === 'closed' ? false : TAKE_EVERY_MS),
  });

export const exchangeQuery = (name: string, index: number) =>
  queryOptions({ queryKey: ['exchange', name, index], queryFn: () => client.readExchange(name, index) });

export interface CallSelection {
  readonly service?: string | undefined;
  readonly strays?: boolean | undefined;
  readonly findings?: boolean | undefined;
}

export const callsQuery = (selection: CallSelection) =>
  infiniteQueryOptions({
    queryKey: ['calls', selection],
    queryFn: ({ pageParam }) => client.listCalls({ ...selection, before: pageParam, limit: 200 }),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (page) => page.next ?? undefined,
  });

const CALLBACKS_EVERY_MS = 1_000;

export const callQuery = (id: string) =>
  queryOptions({
    queryKey: ['call', id],
    queryFn: () => client.readCall(id),
    // Callbacks come after the call.
    refetchInterval: ({ state: { data } }) =>
      data?.callbackList.some(({ state }) => state === 'waiting') === true ? CALLBACKS_EVERY_MS : false,
  });

export const whyQuery = (id: string) => queryOptions({ queryKey: ['why', id], queryFn: () => client.why(id) });

/** One way of fetching: one cache, cancelled when overtaken, asked again when what it is about has changed. */
import { createQuery, keepPreviousData, QueryClient, type Query } from '@tanstack/svelte-query';
import { SvelteSet } from 'svelte/reactivity';
import { api, got, Problem, type Schemas } from './api';
import { asProblem } from './load.svelte';
import { session } from './session.svelte';

/** What pages show, as the stream of changes names it (`core.views.Noun`). */
export type Noun =
  | 'people'
  | 'accounts'
  | 'dockets'
  | 'decisions'
  | 'waiting'
  | 'applications'
  | 'findings'
  | 'seats'
  | 'rules'
  | 'dates'
  | 'mails'
  | 'shared'
  | 'access'
  | 'views'
  | 'clock';

/** Of what may be better in a moment; the rest is said at once. */
const passes = (error: unknown): boolean =>
  error instanceof Problem && (error.status === 0 || error.status >= 502);

export const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (times, error) => times < 2 && passes(error),
      retryDelay: 1000,
      networkMode: 'always',
      refetchOnWindowFocus: false
    }
  }
});

/** Lists that have changed, but of which so many pages are here that they are asked for anew by hand. */
export const long = new SvelteSet<string>();
const MANY_PAGES = 5;

function isLong(query: Query): boolean {
  const pages = (query.state.data as { pages?: unknown[] } | undefined)?.pages;
  return (pages?.length ?? 0) > MANY_PAGES;
}

const PAUSE = 300;
const LONGEST = 5000;
let gathered = new Set<Noun | null>();
let asking = false;

/** Something of these nouns is not as it was; without them anything may be. */
export function changed(nouns?: Noun[]): void {
  for (const noun of nouns ?? [null]) gathered.add(noun);
  if (!asking) void askAgain();
}

/**
 * Ask anew, one round after the other: while a reading changes something all the time, a call that is
 * under way ends before it is asked again, instead of being cut off each time.
 */
async function askAgain(): Promise<void> {
  asking = true;
  while (gathered.size) {
    const nouns = gathered;
    gathered = new Set();
    const about = ({ meta }: Query): boolean =>
      nouns.has(null) || ((meta?.of as Noun[] | undefined) ?? []).some((noun) => nouns.has(noun));
    const found = client.getQueryCache().findAll({ predicate: about });
    for (const query of found.filter(isLong)) long.add(JSON.stringify(query.queryKey));
    const short = found.filter((query) => !isLong(query));
    // What is on its way already may have been answered before the change.
    const under = new Set(short.filter((query) => query.state.fetchStatus === 'fetching'));
    await again((query) => short.includes(query));
    if (under.size) await again((query) => under.has(query));
    await wait(PAUSE);
  }
  asking = false;
}

const wait = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** Ask anew; who does not answer for long holds up no others. */
const again = (predicate: (query: Query) => boolean): Promise<void> =>
  Promise.race([client.invalidateQueries({ predicate }, { cancelRefetch: false }), wait(LONGEST)]);

/** Nothing of what one operator was told is there for the next. */
export function forget(): void {
  client.clear();
  long.clear();
}

/** What was asked for: the data, or the problem, or still on its way. */
export interface Asked<T> {
  readonly data: T | null;
  readonly problem: Problem | null;
  readonly busy: boolean;
  /** Something is being done to it; that it is asked for anew takes nobody's button away. */
  readonly acting: boolean;
  /** Ask again. */
  run: () => Promise<void>;
  /** Do something to it, then ask again; what went wrong is its problem. */
  after: (act: () => Promise<unknown>) => Promise<void>;
}

/**
 * Ask the service, and again whenever something of these nouns has changed.
 * `key` tells what is asked for: with another one another question is asked, and the answer so far stays.
 */
export function ask<T>(
  of: Noun[],
  key: () => unknown[],
  call: (signal: AbortSignal) => Promise<T>
): Asked<T> {
  const query = createQuery<T, Error, T, unknown[]>(
    () => ({
      queryKey: key(),
      queryFn: ({ signal }) => call(signal),
      placeholderData: keepPreviousData,
      meta: { of }
    }),
    () => client
  );
  let failed = $state.raw<Problem | null>(null);
  let acting = $state(false);
  return {
    get data() {
      return query.data ?? null;
    },
    get problem() {
      return failed ?? (query.error ? said(query.error) : null);
    },
    get busy() {
      return acting || query.isFetching;
    },
    get acting() {
      return acting;
    },
    run: async () => {
      await query.refetch();
    },
    after: async (act) => {
      acting = true;
      try {
        await act();
        failed = null;
        await query.refetch();
      } catch (error) {
        failed = said(error);
      } finally {
        acting = false;
      }
    }
  };
}

/** The applications with how they are, which several parts of a page may ask for. */
export const applications = (): Asked<Schemas['ApplicationRow'][]> =>
  ask(
    ['applications', 'accounts', 'rules'],
    () => ['applications'],
    (signal) => got(api.GET('/api/v1/applications', { signal }))
  );

/** What went wrong, in words; who is signed in no more signs in again. */
export function said(error: unknown): Problem {
  const problem = asProblem(error);
  if (problem.status === 401) queueMicrotask(() => (session.view = null));
  return problem;
}

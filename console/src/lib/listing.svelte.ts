/** A list as its address asks for it: filters, order and columns, page after page. */
import { createInfiniteQuery } from '@tanstack/svelte-query';
import { SvelteSet } from 'svelte/reactivity';
import type { Problem } from './api';
import { client, long, said, type Noun } from './query.svelte';
import { router, type Query, type View } from './router.svelte';

interface Page<T> {
  items: T[];
  next?: string | null;
  total?: number | null;
  over?: boolean;
}

/** What a page is asked with, beside the filters, which the service knows. */
interface Asking {
  limit: number;
  cursor?: string;
}
const FIRST = 100;
const FURTHER = 200;
/** People, or accounts, of one plan, as the service takes them. */
export const MOST_AT_ONCE = 500;

/** A column of a list; its name is a field of the rows. */
export interface Column<T> {
  name: keyof T & string;
  label: string;
  text: (row: T) => string;
  /** What the row is called where this alone does not tell it from others. */
  called?: (row: T) => string;
  /** The moment it says, where it says one. */
  at?: (row: T) => string | null | undefined;
  /** What it is sorted by, and whether that comes with the latest first. */
  sort?: string;
  latest?: boolean;
  look?: 'mono' | 'soft' | 'num mono' | 'line' | 'broken';
  /** Rem, where rows are drawn as they scroll into view. */
  width?: number;
  /** Shown only when it is asked for. */
  more?: boolean;
}

export type Way = 'ascending' | 'descending';
const OTHER: Record<Way, Way> = { ascending: 'descending', descending: 'ascending' };
/** What of an address is about the look of a list, and not what it is asked. */
export const LOOK = 'columns';
const ORDERED = ['sort', 'order'];
/** The row that is opened. */
export const OPEN = 'open';
/** What of an address only the console knows. */
const OWN = [LOOK, OPEN, 'part'];

/** What of an address the service is asked. */
export function askedOf(query: Query): Query {
  return Object.fromEntries(Object.entries(query).filter(([name]) => !OWN.includes(name)));
}

export class Listing<T extends { id: string }> {
  readonly picked = new SvelteSet<string>();
  /** Whether all that fit are picked, also those that are not here yet. */
  everything = $state(false);
  private readonly pages;

  /**
   * Of a page with several lists each is a `part` of its own.
   *
   * `fetch` asks for one page, as what is asked says; `view` is where the list stands, with that in its
   * address. Values are sent as they stand there: the service says what it does not take.
   */
  constructor(
    of: Noun[],
    private readonly view: () => View & { query?: Query; part?: string },
    fetch: (asked: Asking, signal: AbortSignal) => Promise<Page<T>>
  ) {
    this.pages = createInfiniteQuery(
      () => ({
        queryKey: this.key,
        queryFn: ({ pageParam, signal }: { pageParam: string | null; signal: AbortSignal }) =>
          fetch(
            {
              ...this.asked,
              ...(pageParam ? { limit: FURTHER, cursor: pageParam } : { limit: FIRST })
            },
            signal
          ),
        initialPageParam: null as string | null,
        getNextPageParam: (page: Page<T>) => page.next ?? null,
        // Comparing all that is here with itself, page after page, takes longer than the pages.
        structuralSharing: false,
        meta: { of }
      }),
      () => client
    );
  }

  get query(): Query {
    return this.view().query ?? {};
  }

  /** What the service is asked: the address without what only the console knows. */
  get asked(): Query {
    return askedOf(this.query);
  }

  /** Whether not all there are are asked for. */
  get filtered(): boolean {
    return Object.keys(this.asked).some((name) => !ORDERED.includes(name));
  }

  private get key(): unknown[] {
    const { page, part = this.query.part } = this.view();
    return ['list', page, part ?? '', this.asked];
  }

  rows = $derived.by((): T[] => this.pages.data?.pages.flatMap((page) => page.items) ?? []);

  /** How many there are, in words; null until it is known. */
  count = $derived.by((): string | null => {
    const first = this.pages.data?.pages[0];
    if (first && typeof first.total !== 'number' && !this.pages.hasNextPage)
      return this.rows.length.toLocaleString('en-GB');
    if (typeof first?.total !== 'number') return null;
    return (first.over ? 'over ' : '') + first.total.toLocaleString('en-GB');
  });

  get next(): boolean {
    return this.pages.hasNextPage;
  }

  get busy(): boolean {
    return this.pages.isFetching;
  }

  get problem(): Problem | null {
    return this.pages.error ? said(this.pages.error) : null;
  }

  /** Whether it has changed and is too long to be asked for anew unasked. */
  get outdated(): boolean {
    return long.has(JSON.stringify(this.key));
  }

  async more(): Promise<void> {
    if (this.next && !this.busy) await this.pages.fetchNextPage();
  }

  /** All that fit, or more than so many, which are too many to be meant; null where a page of them cannot be had. */
  async all(most = MOST_AT_ONCE): Promise<T[] | null> {
    for (;;) {
      const found = await this.pages.fetchNextPage();
      const rows = found.data?.pages.flatMap((page) => page.items) ?? [];
      if (found.isError) return null;
      if (!found.hasNextPage || rows.length > most) return rows;
    }
  }

  /** From the first page. */
  async again(): Promise<void> {
    long.delete(JSON.stringify(this.key));
    await client.resetQueries({ queryKey: this.key, exact: true });
  }

  /** Ask for something else: names with '' are not asked for any more. */
  ask(change: Record<string, string>): void {
    const asked = Object.entries({ ...this.query, ...change }).filter(([, value]) => value !== '');
    if (Object.keys(askedOf(change)).length) this.drop();
    router.go({ ...this.view(), query: Object.fromEntries(asked) } as View);
  }

  /** Those of all columns that are shown, in the order they were asked for. */
  columns(all: Column<T>[]): Column<T>[] {
    const wanted = this.query[LOOK]?.split(',') ?? [];
    const known = wanted.flatMap((name) => all.find((c) => c.name === name) ?? []);
    return known.length ? known : all.filter((c) => !c.more);
  }

  /** Columns the address asks for that this list has not. */
  unknown(all: Column<T>[]): string[] {
    const wanted = this.query[LOOK]?.split(',') ?? [];
    return wanted.filter((name) => !all.some((column) => column.name === name));
  }

  pick(id: string, on: boolean): void {
    this.everything = false;
    if (on) this.picked.add(id);
    else this.picked.delete(id);
  }

  turn(id: string): void {
    this.pick(id, !this.picked.has(id));
  }

  /** All that are here, or none. */
  pickAll(on: boolean): void {
    this.drop();
    if (on) for (const row of this.rows) this.picked.add(row.id);
  }

  drop(): void {
    this.everything = false;
    this.picked.clear();
  }

  /** The way a column is sorted now, as aria-sort says it. */
  sorted(name: string, first: string, usual: Way): Way | 'none' {
    if ((this.query.sort ?? first) !== name) return 'none';
    return (this.query.order as Way | undefined) ?? usual;
  }

  /** Sort by a column, or turn it round where it is sorted by that. */
  sort(name: string, first: string, usual: Way): void {
    const turn = this.sorted(name, first, usual) === usual;
    this.ask({ sort: name === first ? '' : name, order: turn ? OTHER[usual] : '' });
  }
}

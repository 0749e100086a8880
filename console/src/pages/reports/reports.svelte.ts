/** Reports: their rows, what is drawn of them, and what they leave out. */
import { ask, type Asked } from '../../lib/query.svelte';
import type { Query } from '../../lib/router.svelte';
import { PEOPLE_REPORTS } from './people';
import { SEAT_REPORTS } from './seats';

/** One cell after the other, as they are read. */
export type Told = string[];
export interface Bar {
  label: string;
  count: number;
  says: string;
}
export interface Page<T> {
  items: T[];
  next?: string | null;
  total?: number | null;
}
export interface Report {
  name: string;
  head: string[];
  rows: Told[];
  bars: Bar[];
  /** There are more rows than are told here. */
  more: boolean;
}
/** What a page of rows is asked with. */
export interface Asking {
  limit: number;
  cursor?: string;
  begin?: string;
  end?: string;
}
export interface Kind<T> {
  name: string;
  says: string;
  head: string[];
  /** Columns of numbers and amounts. */
  counted: string[];
  page: (asked: Asking, signal: AbortSignal) => Promise<Page<T>>;
  row: (row: T, zone: string) => Told;
  draw: (rows: T[]) => Bar[];
  /** What its files are of, where not of its own name. */
  file?: string;
  /** Whether it is of a period that can be said. */
  period?: true;
}
export const kind = <T>(of: Kind<T>): Kind<never> => of as unknown as Kind<never>;
const MOST = 2000;

/** Rows page after page, as many as are drawn. */
async function all<T>(page: (cursor?: string) => Promise<Page<T>>): Promise<[T[], boolean]> {
  const found: T[] = [];
  let cursor: string | undefined;
  do {
    const got = await page(cursor);
    found.push(...got.items);
    cursor = got.next ?? undefined;
  } while (cursor && found.length < MOST);
  return [found, cursor !== undefined];
}

/** Numbers of the same word together, in the order in which the words come. */
export function summed<T>(
  rows: T[],
  word: (row: T) => string,
  count: (row: T) => number = () => 1
): Map<string, number> {
  const found = new Map<string, number>();
  for (const row of rows) found.set(word(row), (found.get(word(row)) ?? 0) + count(row));
  return found;
}

export const bars = (of: Map<string, number>, says = (n: number) => String(n)): Bar[] =>
  [...of].map(([label, count]) => ({ label, count, says: says(count) }));

export const REPORTS: Record<string, Kind<never>> = { ...PEOPLE_REPORTS, ...SEAT_REPORTS };

/** The days that are asked for, where the report is of a period. */
export function period(name: string, query: Query): { begin?: string; end?: string } {
  if (!REPORTS[name]?.period) return {};
  const { begin, end } = query;
  return { ...(begin ? { begin } : {}), ...(end ? { end } : {}) };
}

/** A report as it is now. */
export const report = (name: () => string, query: () => Query, zone: () => string): Asked<Report> =>
  ask(
    ['seats', 'people', 'rules', 'dockets', 'findings', 'accounts'],
    () => ['report', name(), period(name(), query()), zone()],
    async (signal) => {
      const of = REPORTS[name()]!;
      const days = period(name(), query());
      const [rows, more] = await all((cursor) =>
        of.page({ limit: 200, ...days, ...(cursor ? { cursor } : {}) }, signal)
      );
      const told = rows.map((row) => of.row(row, zone()));
      return { name: name(), head: of.head, rows: told, bars: of.draw(rows), more };
    }
  );

/** Reports: their rows, what is drawn of them, and what they leave out. */
import { ask, type Asked } from '../../lib/query.svelte';
import type { Query } from '../../lib/router.svelte';
import type { Kind, Page, Report } from './kinds';
import { PEOPLE_REPORTS } from './people';
import { SEAT_REPORTS } from './seats';

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

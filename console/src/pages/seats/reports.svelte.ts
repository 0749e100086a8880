/** Reports about seats: their rows, what is drawn of them, and what they leave out. */
import { api, got, type Schemas } from '../../lib/api';
import { amount, dateOf, momentOf } from '../../lib/format';
import { ask, type Asked } from '../../lib/query.svelte';

/** One cell after the other, as they are read. */
export type Told = string[];
export interface Bar {
  label: string;
  count: number;
  says: string;
}
interface Page<T> {
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
function summed<T>(
  rows: T[],
  word: (row: T) => string,
  count: (row: T) => number
): Map<string, number> {
  const found = new Map<string, number>();
  for (const row of rows) found.set(word(row), (found.get(word(row)) ?? 0) + count(row));
  return found;
}

const bars = (of: Map<string, number>, says = (n: number) => String(n)): Bar[] =>
  [...of].map(([label, count]) => ({ label, count, says: says(count) }));

interface Kind<T> {
  name: string;
  says: string;
  head: string[];
  /** Columns of numbers and amounts. */
  counted: string[];
  page: (cursor: string | undefined, signal: AbortSignal) => Promise<Page<T>>;
  row: (row: T, zone: string) => Told;
  draw: (rows: T[]) => Bar[];
}
const kind = <T>(of: Kind<T>): Kind<never> => of as unknown as Kind<never>;
const asked = (cursor: string | undefined) => ({
  query: { ...(cursor ? { cursor } : {}), limit: 200 }
});
const price = (row: { amount: string | null; currency: string }): string =>
  row.amount === null ? 'not said' : amount(row.amount, row.currency);

export const REPORTS: Record<string, Kind<never>> = {
  'seats-costs': kind<Schemas['SeatCostRow']>({
    name: 'Costs by month',
    says: 'Who held a seat at a month’s end, at the prices and in the departments of today; seats without a price cost nothing here.',
    head: ['Month', 'Department', 'Application', 'License', 'Seats', 'Cost'],
    counted: ['Seats', 'Cost'],
    page: (c, signal) => got(api.GET('/api/v1/seats/costs', { params: asked(c), signal })),
    row: (r) => [
      r.month.slice(0, 7),
      r.department,
      r.application_name,
      r.license,
      `${r.seats}`,
      price(r)
    ],
    draw: (rows) => {
      const priced = rows.filter((r) => r.amount !== null);
      const sums = summed(
        priced,
        (r) => `${r.month.slice(0, 7)} ${r.currency}`,
        (r) => Number(r.amount)
      );
      return bars(sums).map((b) => ({ ...b, says: amount(b.count.toFixed(2), b.label.slice(8)) }));
    }
  }),
  'seats-reclaimable': kind<Schemas['ReclaimableRow']>({
    name: 'Could come back',
    says: 'The first reason that applies. Where an application does not tell the use, unused seats are not among them.',
    head: ['Application', 'License', 'Account', 'Person', 'Department', 'Because', 'A month'],
    counted: ['A month'],
    page: (c, signal) => got(api.GET('/api/v1/seats/reclaimable', { params: asked(c), signal })),
    row: (r) => [
      ...[r.application_name, r.license, r.login, r.person_name ?? '', r.department],
      ...[r.reason.replaceAll('-', ' '), price(r)]
    ],
    draw: (rows) =>
      bars(
        summed(
          rows,
          (r) => r.reason.replaceAll('-', ' '),
          () => 1
        )
      )
  }),
  'seats-over': kind<Schemas['OverRow']>({
    name: 'Over',
    says: 'Pools of which more seats are held than were bought.',
    head: ['Application', 'License', 'Bought', 'Held', 'Over', 'Wait'],
    counted: ['Bought', 'Held', 'Over', 'Wait'],
    page: (c, signal) => got(api.GET('/api/v1/seats/over', { params: asked(c), signal })),
    row: (r) => [
      r.application_name,
      r.license,
      ...[r.bought, r.held, r.over, r.waiting].map(String)
    ],
    draw: (rows) =>
      bars(
        summed(
          rows,
          (r) => r.license,
          (r) => r.over
        )
      )
  }),
  'seats-starting': kind<Schemas['StartingRow']>({
    name: 'Begin soon',
    says: 'Whoever begins within ten working days, by the rules in force; seats that leavers give back until then are not counted on.',
    head: ['First day', 'Person', 'Department', 'Application', 'License', 'Seat', 'Order'],
    counted: [],
    page: async (_, signal) => {
      const found = await got(api.GET('/api/v1/seats/starting', { signal }));
      return { items: found.rows, next: null };
    },
    row: (r, zone) => [
      ...[dateOf(r.starts, zone), r.person_name, r.department, r.application_name, r.license],
      ...[r.readiness.replaceAll('-', ' '), r.order]
    ],
    draw: (rows) =>
      bars(
        summed(
          rows,
          (r) => r.readiness.replaceAll('-', ' '),
          () => 1
        )
      )
  }),
  'seats-held': kind<Schemas['SeatHeldRow']>({
    name: 'Held today',
    says: 'Who held a seat at any moment of today; another period by the command line: yugum seats held.',
    head: ['Person', 'Account', 'Application', 'License', 'Since', 'Until'],
    counted: [],
    page: (c, signal) => got(api.GET('/api/v1/seats/held', { params: asked(c), signal })),
    row: (r, zone) => [
      ...[r.person_name ?? '', r.login ?? '', r.application_name, r.license],
      ...[momentOf(r.since_at, zone), r.until_at ? momentOf(r.until_at, zone) : '']
    ],
    draw: (rows) =>
      bars(
        summed(
          rows,
          (r) => r.license,
          () => 1
        )
      )
  })
};

/** A report as it is today. */
export const report = (name: () => string, zone: () => string): Asked<Report> =>
  ask(
    ['seats', 'people', 'rules'],
    () => ['report', name(), zone()],
    async (signal) => {
      const of = REPORTS[name()]!;
      const [rows, more] = await all((cursor) => of.page(cursor, signal));
      const told = rows.map((row) => of.row(row, zone()));
      return { name: name(), head: of.head, rows: told, bars: of.draw(rows), more };
    }
  );

/** People by licenses: cells that are picked are given or taken by one plan. */
import { SvelteMap } from 'svelte/reactivity';
import { api, got, type Schemas } from '../../lib/api';
import { Listing } from '../../lib/listing.svelte';
import type { Query } from '../../lib/router.svelte';

export type Row = Schemas['MatrixRow'] & { id: string };
export type Cell = Schemas['SeatCell'];
const MARKS: Record<string, string> = { role: '●', decision: '◆', found: '○' };
/** What stands in the address instead of an application where all of them are meant. */
export const ALL = 'all';

export class Matrix {
  readonly list: Listing<Row>;
  /** What is picked: to be given, or to be taken, by person and pool. */
  readonly picked = new SvelteMap<string, { person: string; pool: string; give: boolean }>();
  why = $state('');

  constructor(query: () => Query) {
    this.list = new Listing<Row>(
      ['seats', 'people'],
      () => ({ page: 'seats', part: 'matrix', query: query() }),
      async (asked, signal) => {
        const { matrix, ...said } = { matrix: ALL, ...asked };
        const of = matrix === ALL ? {} : { application_id: matrix };
        const params = { query: { ...said, ...of } };
        const page = await got(api.GET('/api/v1/seats/matrix', { params, signal }));
        return { ...page, items: page.items.map((row) => ({ ...row, id: row.person_id })) };
      }
    );
  }

  pick(row: Row, pool: string): void {
    const key = `${row.person_id} ${pool}`;
    if (this.picked.delete(key)) return;
    const give = !cellOf(row, pool);
    this.picked.set(key, { person: row.person_id, pool, give });
  }

  isPicked(row: Row, pool: string): boolean {
    return this.picked.has(`${row.person_id} ${pool}`);
  }

  /** So many are to be given, and so many taken. */
  get counts(): { give: number; take: number } {
    const all = [...this.picked.values()];
    const give = all.filter((p) => p.give).length;
    return { give, take: all.length - give };
  }

  get turns(): Schemas['SeatTurn'][] {
    return [...this.picked.values()].map((p) => ({
      person: p.person,
      pool_id: p.pool,
      give: p.give
    }));
  }
}

export function cellOf(row: Row, pool: string): Cell | undefined {
  return row.cells.find((c) => c.pool_id === pool);
}

/** A cell as it is drawn: why there is a seat, or the place in line. */
export function mark(cell: Cell | undefined): string {
  if (!cell) return '';
  return cell.state === 'waiting' ? String(cell.place) : (MARKS[cell.origin] ?? '○');
}

/** A cell in words. */
export function told(cell: Cell | undefined): string {
  if (!cell) return 'no seat';
  if (cell.state === 'waiting') return `number ${cell.place} in line`;
  if (cell.origin === 'role') return `by the role ${cell.because}`;
  return cell.origin === 'decision' ? `by an exception: ${cell.because}` : 'found there';
}

/** A list as its address asks for it: filters and order, page after page, no stale page over a newer one. */
import { Load } from './load.svelte';
import { router, type Query, type View } from './router.svelte';

interface Page<T> {
  items: T[];
  next?: string | null;
  total?: number | null;
  over?: boolean;
}

export type Way = 'ascending' | 'descending';
const OTHER: Record<Way, Way> = { ascending: 'descending', descending: 'ascending' };

export class Listing<T> {
  rows = $state.raw<T[]>([]);
  next = $state<string | null>(null);
  /** How many there are, in words; null until it is known. */
  count = $state<string | null>(null);
  readonly load: Load<boolean>;
  private turn = 0;

  /** `fetch` asks for one page; `view` is where the list stands, with what is asked for in its address. */
  constructor(
    fetch: (query: Query, cursor: string | undefined) => Promise<Page<T>>,
    private readonly view: () => View & { query?: Query }
  ) {
    this.load = new Load(async () => {
      const turn = this.turn;
      const page = await fetch(this.query, this.next ?? undefined);
      if (turn !== this.turn) return true;
      this.rows = [...this.rows, ...page.items];
      this.next = page.next ?? null;
      if (typeof page.total === 'number') {
        this.count = (page.over ? 'over ' : '') + page.total.toLocaleString('en-GB');
      }
      return true;
    });
  }

  get query(): Query {
    return this.view().query ?? {};
  }

  /** From the first page, as the address has it now. */
  again(): void {
    this.turn++;
    this.rows = [];
    this.next = this.count = null;
    void this.load.run();
  }

  /** Ask for something else: names with '' are not asked for any more. */
  ask(change: Record<string, string>): void {
    const asked = Object.entries({ ...this.query, ...change }).filter(([, value]) => value !== '');
    router.go({ ...this.view(), query: Object.fromEntries(asked) } as View);
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

/** What everybody who leaves or has left still owns, and a choice for many at once. */
import { SvelteSet } from 'svelte/reactivity';
import { api, got, type Schemas } from '../../lib/api';
import { ask, type Asked } from '../../lib/query.svelte';

export type Row = Schemas['BoardRow'];
type Page = Schemas['Page_BoardRow_'];
export type Settled = Row['settled'] | '';
const MOST = 5;
export const keyOf = (row: Row): string =>
  `${row.account_id} ${row.thing} ${row.matching} ${row.to_id}`;

export class Board {
  settled = $state<Settled>('open');
  readonly picked = new SvelteSet<string>();
  said = $state({ to: '', reason: '' });
  readonly load: Asked<Page>;

  constructor() {
    this.load = ask(
      ['people', 'accounts', 'decisions', 'rules'],
      () => ['handover', 'board', this.settled],
      (signal) => this.fetch(signal)
    );
  }

  /** With a filter pages are short: several are asked for, until there is enough to see. */
  private async fetch(signal: AbortSignal): Promise<Page> {
    const items: Row[] = [];
    let cursor: string | undefined;
    for (let turn = 0; turn < MOST; turn++) {
      const query = { settled: this.settled || undefined, limit: 200, cursor };
      const page: Page = await got(api.GET('/api/v1/handover', { params: { query }, signal }));
      items.push(...page.items);
      cursor = page.next ?? undefined;
      if (!cursor || items.length >= 200) break;
    }
    return { items, next: cursor ?? null, total: null, over: false };
  }

  get rows(): Row[] {
    return this.load.data?.items ?? [];
  }

  get chosen(): Row[] {
    return this.rows.filter((row) => this.picked.has(keyOf(row)));
  }

  pick(row: Row): void {
    const key = keyOf(row);
    if (!this.picked.delete(key)) this.picked.add(key);
  }

  pickAll(): void {
    const all = this.chosen.length === this.rows.length;
    this.picked.clear();
    if (!all) for (const row of this.rows) this.picked.add(keyOf(row));
  }

  /** One after the other: what one of them refuses leaves the rest picked, and says why. */
  settle = (): Promise<void> =>
    this.load.after(async () => {
      for (const row of this.chosen) {
        const params = { path: { who: row.person_id } };
        const body = {
          application: row.application_id,
          thing: row.thing,
          matching: row.matching,
          to: this.said.to,
          reason: this.said.reason,
          share: [],
          copies: false,
          goes: false,
          keeps: false,
          until: '',
          typed: ''
        };
        await got(api.PUT('/api/v1/people/{who}/handover', { params, body }));
        this.picked.delete(keyOf(row));
      }
      this.said = { to: '', reason: '' };
    });
}

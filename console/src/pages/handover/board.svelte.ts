/** What everybody who leaves or has left still owns, and a choice for many at once. */
import { api, got, type Problem, type Schemas } from '../../lib/api';
import type { Board as Row } from '../../lib/columns';
import { Listing } from '../../lib/listing.svelte';
import { asProblem } from '../../lib/load.svelte';
import type { Query } from '../../lib/router.svelte';

type Page = Schemas['Page_BoardRow_'];
const MOST = 5;
const ENOUGH = 100;
const keyed = (row: Schemas['BoardRow']): Row => ({
  ...row,
  id: `${row.account_id} ${row.thing} ${row.matching} ${row.to_id}`
});

export class Board {
  readonly list: Listing<Row>;
  said = $state({ to: '', reason: '' });
  problem = $state.raw<Problem | null>(null);
  acting = $state(false);

  constructor(query: () => Query) {
    this.list = new Listing<Row>(
      ['people', 'accounts', 'decisions', 'rules'],
      () => ({ page: 'handover', query: query() }),
      async (asked, signal) => {
        const items: Row[] = [];
        let next: string | null | undefined = asked.cursor;
        // With a filter pages are short: several are asked for, until there is enough to see.
        for (let turn = 0; turn < MOST; turn++) {
          const query = { ...asked, cursor: next ?? undefined, limit: 200 };
          const page: Page = await got(api.GET('/api/v1/handover', { params: { query }, signal }));
          items.push(...page.items.map(keyed));
          next = page.next;
          if (!next || items.length >= ENOUGH) break;
        }
        return { items, next };
      }
    );
  }

  get chosen(): Row[] {
    return this.list.rows.filter((row) => this.list.picked.has(row.id));
  }

  /** One after the other: what one of them refuses leaves the rest picked, and says why. */
  settle = async (): Promise<void> => {
    this.acting = true;
    this.problem = null;
    try {
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
        this.list.pick(row.id, false);
      }
      this.said = { to: '', reason: '' };
    } catch (error) {
      this.problem = asProblem(error);
    }
    this.acting = false;
    await this.list.again();
  };
}

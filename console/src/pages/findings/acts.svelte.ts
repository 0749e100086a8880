/** What can be done with findings that are picked. */
import { api, got, type Problem, type Schemas } from '../../lib/api';
import type { Found } from '../../lib/columns';
import { MOST_AT_ONCE, type Listing } from '../../lib/listing.svelte';
import { asProblem } from '../../lib/load.svelte';
import type { Wish } from '../../lib/plan.svelte';

type Kind = Found['kind'];
/** What is put right by looking at whom it is about again. */
const RECHECKED: Kind[] = ['missing', 'too_much', 'differs', 'both'];
/** What is about an account that can be closed. */
const CLOSED: Kind[] = [
  'leaver-open',
  'nobody-behind',
  'sleeper',
  'owner-left',
  'without-owner',
  'delivered-name'
];
/** What is about an account of which it can be said whose it is. */
const LINKED: Kind[] = ['nobody-behind', 'without-owner', 'owner-left'];
const each = (ids: (string | null)[]): string[] =>
  [...new Set(ids.filter((id) => id !== null))].slice(0, MOST_AT_ONCE);

export class Acts {
  wish = $state.raw<Wish | null>(null);
  /** Whether it is being said until when they are accepted, and why. */
  saying = $state(false);
  said = $state({ until: '+30d', reason: '' });
  /** Whether it is being said whose accounts are, and what is said. */
  linking = $state(false);
  whose = $state<{ who: string; kind: '' | 'person' | 'service' | 'shared' }>({
    who: '',
    kind: ''
  });
  refused = $state.raw<Schemas['RefusedFinding'][]>([]);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);

  constructor(readonly list: Listing<Found>) {}

  get chosen(): Found[] {
    return this.list.rows.filter((row) => this.list.everything || this.list.picked.has(row.id));
  }

  get people(): string[] {
    return each(this.chosen.filter((r) => RECHECKED.includes(r.kind)).map((r) => r.person_id));
  }

  get accounts(): string[] {
    return each(this.chosen.filter((r) => CLOSED.includes(r.kind)).map((r) => r.account_id));
  }

  /** Accounts of which it can be said whose they are. */
  get linked(): string[] {
    return each(this.chosen.filter((r) => LINKED.includes(r.kind)).map((r) => r.account_id));
  }

  /** Those picked; of all that fit, as they are now. */
  private async meant(): Promise<Found[]> {
    return this.list.everything ? ((await this.list.all()) ?? []) : this.chosen;
  }

  private async doing(done: (rows: Found[]) => Promise<void>): Promise<void> {
    this.busy = true;
    this.problem = null;
    try {
      await done(await this.meant());
    } catch (error) {
      this.problem = asProblem(error);
    }
    this.busy = false;
  }

  plan = (verb: 'recheck' | 'suspend' | 'delete'): Promise<void> =>
    this.doing(async () => {
      this.wish =
        verb === 'recheck'
          ? { verb, who: this.people }
          : { verb: 'account', accounts: this.accounts, action: verb };
    });

  /** One after the other, up to the first that is refused, which says why. */
  link = (): Promise<void> =>
    this.doing(async () => {
      const body = { who: this.whose.who, kind: this.whose.kind || null };
      for (const account_id of this.linked) {
        const params = { path: { account_id } };
        await got(api.PUT('/api/v1/accounts/{account_id}/person', { params, body }));
      }
      this.linking = false;
      this.whose = { who: '', kind: '' };
      this.list.drop();
      await this.list.again();
    });

  accept = (): Promise<void> =>
    this.doing(async (rows) => {
      const items = rows.map(({ kind, key }) => ({ kind, key }));
      const body = { items, ...this.said };
      this.refused = (await got(api.POST('/api/v1/findings/accepted', { body }))).refused;
      this.saying = false;
      this.said = { until: '+30d', reason: '' };
      this.list.drop();
      await this.list.again();
    });

  reopen = (): Promise<void> =>
    this.doing(async (rows) => {
      const items = rows.map(({ kind, key }) => ({ kind, key }));
      await got(api.POST('/api/v1/findings/reopened', { body: { items } }));
      this.list.drop();
      await this.list.again();
    });
}

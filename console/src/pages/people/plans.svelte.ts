/** What is to be planned from the list of people: for who is picked, and for a new joiner. */
import { api, got, type Schemas } from '../../lib/api';
import { plural } from '../../lib/format';
import type { Listing } from '../../lib/listing.svelte';
import { Load } from '../../lib/load.svelte';
import type { Wish } from '../../lib/plan.svelte';

export const people = (count: number): string => plural(count, 'person', 'people');

export class PeoplePlans {
  making = $state(false);
  filing = $state(false);
  wish = $state.raw<{ wish: Wish; who: string; fresh?: string } | null>(null);
  private unconfirmed = '';
  /** Of whom no plan was confirmed nobody is left behind. */
  readonly takingOut = new Load(() => {
    const path = { who: this.unconfirmed };
    const body = { reason: 'no plan for them was confirmed' };
    return got(api.POST('/api/v1/people/{who}/decline', { params: { path }, body }));
  });

  constructor(private readonly list: Listing<Schemas['PersonRow']>) {}

  /** For those picked one by one, or for whoever the list fits when the plan is made. */
  plan(verb: Wish['verb']): void {
    const { list } = this;
    this.wish = list.everything
      ? {
          wish: { verb, matching: list.asked as Wish['matching'] },
          who: list.count === '1' ? '1 person' : `${list.count} people`
        }
      : { wish: { verb, who: [...list.picked] }, who: people(list.picked.size) };
  }

  made(login: string, name: string): void {
    this.making = false;
    this.wish = { wish: { verb: 'joiner', who: [login] }, who: name, fresh: login };
  }

  closed(confirmed: boolean): void {
    this.unconfirmed = (!confirmed && this.wish?.fresh) || '';
    this.wish = null;
    if (this.unconfirmed) void this.takingOut.run();
  }
}

/** Making one person of two records. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { ask, changed, type Asked } from '../../lib/query.svelte';

type Person = Schemas['PersonView'];
const LIVE = ['active', 'suspended', 'archived'];

export class Merging extends Acts {
  other = $state('');
  reason = $state('');
  readonly asked: Asked<Person | null>;

  constructor(private readonly kept: () => Person) {
    super();
    this.asked = ask(
      ['people', 'accounts'],
      () => ['people/{who}', this.other],
      async (signal) => {
        const params = { path: { who: this.other } };
        return this.other ? got(api.GET('/api/v1/people/{who}', { params, signal })) : null;
      }
    );
  }

  /** Who is picked, if it is somebody else. */
  get gone(): Person | null {
    const found = this.asked.problem ? null : this.asked.data;
    return found && found.id !== this.kept().id ? found : null;
  }

  /** Accounts of the record that goes where the other one has one as well. */
  get twice(): Schemas['AccountLine'][] {
    const mine = new Set(
      this.kept()
        .accounts.filter((a) => LIVE.includes(a.state))
        .map((a) => a.application_id)
    );
    const theirs = this.gone?.accounts ?? [];
    return theirs.filter((a) => LIVE.includes(a.state) && mine.has(a.application_id));
  }

  merge(done: (twice: string[]) => void): Promise<void> {
    return this.doing(async () => {
      const twice = this.twice.map((a) => a.id);
      const params = { path: { who: this.kept().id } };
      const body = { other: this.gone!.id, reason: this.reason };
      await got(api.POST('/api/v1/people/{who}/merge', { params, body }));
      changed(['people', 'accounts']);
      done(twice);
    });
  }
}

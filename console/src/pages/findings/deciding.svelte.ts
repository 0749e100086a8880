/** What is done about a change outside Yugum: keep it, put it back, or the same for the person everywhere. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import type { Wish } from '../../lib/plan.svelte';

type Deviation = Schemas['Deviation'];

export class Deciding extends Acts {
  /** By the deviation's id: "kept", or the docket that puts it back. */
  done = $state<Record<string, string>>({});
  wish = $state.raw<Wish | null>(null);
  whose = $state('');

  decide(id: string, how: 'keep' | 'revert'): Promise<void> {
    const params = { path: { deviation_id: id } };
    return this.doing(async () => {
      const reply =
        how === 'keep'
          ? await got(api.POST('/api/v1/findings/outside/{deviation_id}/keep', { params }))
          : await got(api.POST('/api/v1/findings/outside/{deviation_id}/revert', { params }));
      this.done[id] = reply.docket ?? 'kept';
    });
  }

  /** The same for all other applications of the person, as what the change means. */
  follow(row: Deviation, means: Schemas['Meaning']): void {
    this.whose = row.person_name ?? row.login;
    const who = [row.person_id ?? ''];
    this.wish =
      means === 'precaution'
        ? { verb: 'account', action: 'suspend', accounts: row.elsewhere }
        : { verb: means, who };
  }
}

/** Making a plan, looking at it, confirming it: the same way for every verb. */
import { api, got, type Problem, type Schemas } from './api';
import { asProblem } from './load.svelte';
import { router } from './router.svelte';

export type Wish = Partial<Schemas['NewPlan']> & { verb: Schemas['Verb'] };

export class Planning {
  at = $state('');
  successor = $state('');
  department = $state('');
  title = $state('');
  reference = $state('');
  reason = $state('');
  batch = $state.raw<Schemas['BatchView'] | null>(null);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);

  constructor(private readonly wish: Wish) {}

  private get changes(): Record<string, string> {
    const changes: Record<string, string> = {};
    if (this.department) changes.department = this.department;
    if (this.title) changes.title = this.title;
    return changes;
  }

  /** Ask what would happen; nothing happens yet. */
  async make(): Promise<void> {
    await this.guarded(async () => {
      const body = { ...this.wish, at: this.at, successor: this.successor, changes: this.changes };
      this.batch = await got(api.POST('/api/v1/plans', { body: body as Schemas['NewPlan'] }));
    });
  }

  /** Carry out what was shown, and go to its docket. */
  async confirm(): Promise<void> {
    const batch = this.batch;
    if (!batch) return;
    await this.guarded(async () => {
      const done = await got(
        api.POST('/api/v1/plans/{batch_id}/confirm', {
          params: { path: { batch_id: batch.id } },
          body: { digest: batch.digest, reference: this.reference, reason: this.reason }
        })
      );
      const docket = done.dockets[0];
      if (docket) router.go({ page: 'docket', name: docket.number });
    });
  }

  private async guarded(call: () => Promise<void>): Promise<void> {
    this.busy = true;
    try {
      await call();
      this.problem = null;
    } catch (error) {
      this.problem = asProblem(error);
    } finally {
      this.busy = false;
    }
  }
}

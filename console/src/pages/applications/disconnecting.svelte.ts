/** Disconnecting an application, or erasing what is kept of one: what follows is worked out first. */
import { api, got, type Schemas } from '../../lib/api';
import { Load } from '../../lib/load.svelte';

export class Disconnecting {
  erase = $state(false);
  reason = $state('');
  typed = $state('');
  readonly plan: Load<Schemas['DisconnectionView']>;
  readonly act: Load<boolean>;

  constructor(
    private readonly id: string,
    connected: boolean,
    done: () => void
  ) {
    this.erase = !connected;
    const path = { application_id: id };
    this.plan = new Load(() =>
      got(
        api.GET('/api/v1/applications/{application_id}/disconnection', {
          params: { path, query: { erase: this.erase } }
        })
      )
    );
    this.act = new Load(async () => {
      const { erase, reason, typed } = this;
      const body: Schemas['Disconnect'] = { digest: this.plan.data!.digest, erase, reason, typed };
      await got(
        api.POST('/api/v1/applications/{application_id}/disconnection', { params: { path }, body })
      );
      done();
      return true;
    });
    $effect(() => {
      void this.erase;
      this.plan.data = null;
      void this.plan.run();
    });
  }

  /** What cannot be put back is typed. */
  readonly ready = $derived.by(
    () => !this.act.busy && !!this.plan.data && !(this.erase && this.typed !== this.id)
  );
}

/** What was handed out to somebody. */
import { api, got, type Schemas } from '../../lib/api';
import { ask, type Asked } from '../../lib/query.svelte';

export class Equipment {
  id = $state('');
  name = $state('');
  readonly load: Asked<{ items: Schemas['ThingRow'][] }>;

  constructor(private readonly who: () => string) {
    this.load = ask(
      ['shared', 'people'],
      () => ['equipment', who()],
      (signal) => {
        const query = { who: who(), limit: 200 };
        return got(api.GET('/api/v1/equipment', { params: { query }, signal }));
      }
    );
  }

  handOut(): Promise<void> {
    return this.load.after(async () => {
      const body = { id: this.id, name: this.name, holder: this.who(), renamed: false };
      await got(api.PUT('/api/v1/equipment', { body }));
      this.id = this.name = '';
    });
  }

  back(thing: string): Promise<void> {
    const params = { path: { thing_id: thing } };
    return this.load.after(() =>
      got(api.POST('/api/v1/equipment/{thing_id}/back', { params, body: {} }))
    );
  }
}

/** Credentials several people know: what is kept of one, and who knows it. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { ask, changed, type Asked } from '../../lib/query.svelte';

export type Shared = Schemas['SharedRow'];

export class Sharing extends Acts {
  said = $state({ id: '', name: '', place: '', owner: '' });
  who = $state('');
  readonly knowers: Asked<Schemas['Knower'][]>;

  constructor(readonly row: Shared | null) {
    super();
    if (row) this.said = { id: row.id, name: row.name, place: row.place, owner: '' };
    this.knowers = ask(
      ['shared', 'people'],
      () => ['shared', 'known', row?.id ?? ''],
      async (signal) => {
        if (!row) return [];
        const params = { path: { shared_id: row.id }, query: { limit: 200 } };
        return (await got(api.GET('/api/v1/shared/{shared_id}/known', { params, signal }))).items;
      }
    );
  }

  private get params(): { path: { shared_id: string } } {
    return { path: { shared_id: this.row!.id } };
  }

  private act(call: () => Promise<unknown>, done?: () => void): Promise<void> {
    return this.doing(async () => {
      await call();
      changed(['shared']);
      done?.();
    });
  }

  /** A new one, or another name, place or owner; who changes it stays who it is unless somebody is picked. */
  store(done: () => void): Promise<void> {
    const body = { ...this.said, owner: this.said.owner || this.row?.owner_id || '' };
    return this.act(() => got(api.PUT('/api/v1/shared', { body })), done);
  }

  know(add: string[], remove: string[]): Promise<void> {
    const { params } = this;
    const body = { add, remove };
    return this.act(
      () => got(api.POST('/api/v1/shared/{shared_id}/known', { params, body })),
      () => (this.who = '')
    );
  }

  changed(): Promise<void> {
    const { params } = this;
    return this.act(() =>
      got(api.POST('/api/v1/shared/{shared_id}/changed', { params, body: {} }))
    );
  }

  drop(done: () => void): Promise<void> {
    const { params } = this;
    return this.act(() => got(api.DELETE('/api/v1/shared/{shared_id}', { params })), done);
  }
}

/** What is done to an application from its line: read, trusted more or less. */
import { api, got, type Problem, type Schemas } from '../../lib/api';
import { said } from '../../lib/query.svelte';

export class Acting {
  busy = $state('');
  problem = $state.raw<Problem | null>(null);

  constructor(
    private readonly row: () => Schemas['ApplicationRow'],
    private readonly changed: () => void
  ) {}

  private get params(): { path: { application_id: string } } {
    return { path: { application_id: this.row().id } };
  }

  private async act(what: string, call: () => Promise<unknown>): Promise<void> {
    this.busy = what;
    this.problem = null;
    try {
      await call();
    } catch (error) {
      this.problem = said(error);
    }
    this.busy = '';
    this.changed();
  }

  read(): Promise<void> {
    const { params } = this;
    return this.act('Reading', () =>
      got(api.POST('/api/v1/applications/{application_id}/read', { params }))
    );
  }

  trust(value: string): Promise<void> {
    const { params } = this;
    const body = { trust: value as Schemas['Trust'] };
    return this.act('Saving', () =>
      got(api.PATCH('/api/v1/applications/{application_id}/trust', { params, body }))
    );
  }
}

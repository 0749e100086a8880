/** Keeping a list as it is: a name, whether others see it, and what one starts with. */
import { api, got, type Problem, type Schemas } from './api';
import { askedOf, LOOK } from './listing.svelte';
import { changed, said } from './query.svelte';
import type { Query } from './router.svelte';
import { session } from './session.svelte';

export class Keeping {
  name = $state('');
  shared = $state(false);
  busy = $state(false);
  problem = $state.raw<Problem | null>(null);

  constructor(
    private readonly page: Schemas['ListName'],
    here: Schemas['ViewRow'] | undefined
  ) {
    if (here?.mine) [this.name, this.shared] = [here.name, here.shared];
  }

  private known(mine: Schemas['ViewRow'][]): Schemas['ViewRow'] | undefined {
    return mine.find((view) => view.name === this.name.trim());
  }

  verb(mine: Schemas['ViewRow'][]): string {
    return this.known(mine) ? `Change ${this.name.trim()}` : 'Keep it';
  }

  /** A new view, or another list under a name of one's own. */
  async keep(query: Query, mine: Schemas['ViewRow'][]): Promise<void> {
    const columns = query[LOOK];
    const body = {
      page: this.page,
      name: this.name.trim(),
      query: askedOf(query),
      columns: columns?.split(',') ?? [],
      shared: this.shared
    };
    const known = this.known(mine);
    const params = { path: { view_id: known?.id ?? '' } };
    await this.act(() =>
      known
        ? got(api.PUT('/api/v1/views/{view_id}', { params, body }))
        : got(api.POST('/api/v1/views', { body }))
    );
  }

  drop(id: string): Promise<void> {
    const params = { path: { view_id: id } };
    return this.act(() => got(api.DELETE('/api/v1/views/{view_id}', { params })));
  }

  /** Start with a view from now on; with '' with the day sheet. */
  async start(id: string): Promise<void> {
    const params = { path: { view_id: id } };
    await this.act(() =>
      id
        ? got(api.PUT('/api/v1/views/{view_id}/start', { params }))
        : got(api.DELETE('/api/v1/views/start'))
    );
    await session.ask();
  }

  private async act(call: () => Promise<unknown>): Promise<void> {
    this.busy = true;
    try {
      await call();
      this.problem = null;
      changed(['views']);
    } catch (error) {
      this.problem = said(error);
    } finally {
      this.busy = false;
    }
  }
}

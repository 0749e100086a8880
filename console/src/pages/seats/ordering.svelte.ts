/** Orders of more seats: asked for, decided about, expected, arrived. */
import { api, got } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { changed } from '../../lib/query.svelte';
import { router } from '../../lib/router.svelte';

const EMPTY = { count: 1, needed_by: '', begins: '', ends: '', reason: '' };

export class Ordering extends Acts {
  said = $state({ ...EMPTY });
  answer = $state('');
  on = $state('');
  reference = $state('');
  came = $state<number | null>(null);

  constructor(private readonly pool: () => string) {
    super();
  }

  /** Something is done about an order, and everything about seats is asked for anew. */
  private about(done: () => Promise<unknown>): Promise<void> {
    return this.doing(async () => {
      await done();
      this.answer = this.on = this.reference = '';
      this.came = null;
      changed(['seats']);
    });
  }

  ask = (): Promise<void> =>
    this.about(async () => {
      const { needed_by, begins, ends, ...said } = this.said;
      const body = {
        ...said,
        pool_id: this.pool(),
        needed_by: needed_by || null,
        begins: begins || null,
        ends: ends || null
      };
      const made = await got(api.POST('/api/v1/orders', { body }));
      this.said = { ...EMPTY };
      router.go({ page: 'seats', query: { pool: this.pool(), order: made.name } });
    });

  decide = (order_id: string, agreed: boolean): Promise<void> =>
    this.about(() =>
      got(
        api.POST('/api/v1/orders/{order_id}/decision', {
          params: { path: { order_id } },
          body: { agreed, answer: this.answer }
        })
      )
    );

  expect = (order_id: string): Promise<void> =>
    this.about(() =>
      got(
        api.POST('/api/v1/orders/{order_id}/expected', {
          params: { path: { order_id } },
          body: { on: this.on, reference: this.reference }
        })
      )
    );

  arrive = (order_id: string): Promise<void> =>
    this.about(() =>
      got(
        api.POST('/api/v1/orders/{order_id}/arrived', {
          params: { path: { order_id } },
          body: { count: this.came, reference: this.reference }
        })
      )
    );

  withdraw = (order_id: string): Promise<void> =>
    this.about(() =>
      got(
        api.POST('/api/v1/orders/{order_id}/withdrawn', {
          params: { path: { order_id } },
          body: { answer: this.answer }
        })
      )
    );
}

/** One pool: what was bought for it, changed by an administrator. */
import { api, got, type Schemas } from '../../lib/api';
import { ask, type Asked } from '../../lib/query.svelte';

type View = Schemas['PoolView'];

export class Pool {
  readonly load: Asked<View>;
  /** Fewer seats than are held are meant. */
  below = $state(false);
  bought = $state({ count: 1, begins: '', ends: '', reference: '' });
  said = $state({ price: '', currency: '', period: 'month', notice_days: '', unlimited: false });

  constructor(private readonly id: () => string) {
    this.load = ask(
      ['seats'],
      () => ['pool', this.id()],
      (signal) => got(api.GET('/api/v1/seats/{pool_id}', { params: { path: this.path }, signal }))
    );
  }

  private get path(): { pool_id: string } {
    return { pool_id: this.id() };
  }

  /** What is said of it now, to be changed. */
  begin(view: View): void {
    this.said = {
      price: view.price ?? '',
      currency: view.currency,
      period: view.period,
      notice_days: view.notice_days === null ? '' : String(view.notice_days),
      unlimited: view.unlimited
    };
  }

  save = (view: View): Promise<void> =>
    this.load.after(() => {
      const { price, currency, period, notice_days, unlimited } = this.said;
      const body: Schemas['PutPool'] = {
        application_id: view.application_id,
        license: view.license,
        currency: currency.trim().toUpperCase(),
        period: period as Schemas['PricePeriod'],
        unlimited,
        below: this.below
      };
      if (price.trim()) body.price = price.trim();
      if (notice_days !== '') body.notice_days = Number(notice_days);
      return got(api.POST('/api/v1/seats', { body }));
    });

  buy = (): Promise<void> =>
    this.load.after(async () => {
      const { count, begins, ends, reference } = this.bought;
      const body = { count, begins: begins || null, ends: ends || null, reference, below: false };
      const params = { path: this.path };
      await got(api.POST('/api/v1/seats/{pool_id}/purchases', { params, body }));
      this.bought = { count: 1, begins: '', ends: '', reference: '' };
    });

  unbuy = (purchase: string): Promise<void> =>
    this.load.after(() => {
      const params = {
        path: { ...this.path, purchase_id: purchase },
        query: { below: this.below }
      };
      return got(api.DELETE('/api/v1/seats/{pool_id}/purchases/{purchase_id}', { params }));
    });
}

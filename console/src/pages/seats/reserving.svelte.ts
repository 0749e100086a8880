/** Seats set aside, and no longer. */
import { api, got } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { changed } from '../../lib/query.svelte';

const EMPTY = {
  person: '',
  holder: '',
  who: '',
  count: 1,
  begins: '',
  ends: '',
  reason: '',
  ahead: false
};

export class Reserving extends Acts {
  said = $state({ ...EMPTY });
  /** How many were made: the pickers begin anew. */
  made = $state(0);

  constructor(private readonly pool: () => string) {
    super();
  }

  make = (): Promise<void> =>
    this.doing(async () => {
      const { begins, ends, ...said } = this.said;
      const body = { ...said, begins: begins || null, ends: ends || null };
      const params = { path: { pool_id: this.pool() } };
      await got(api.POST('/api/v1/seats/{pool_id}/reservations', { params, body }));
      this.said = { ...EMPTY };
      this.made += 1;
      changed(['seats']);
    });

  withdraw = (reservation: string): Promise<void> =>
    this.doing(async () => {
      const params = { path: { pool_id: this.pool(), reservation_id: reservation } };
      await got(api.DELETE('/api/v1/seats/{pool_id}/reservations/{reservation_id}', { params }));
      changed(['seats']);
    });
}

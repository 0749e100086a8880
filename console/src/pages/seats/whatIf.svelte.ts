/** What would come of a pool, if: nothing is changed by asking. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';

const EMPTY = {
  bought: '',
  from: '',
  joining: '',
  begin: '',
  joiners: '',
  file: '',
  rules: '',
  text: ''
};

export class Asking extends Acts {
  said = $state({ ...EMPTY });
  found = $state.raw<Schemas['ForecastView'] | null>(null);

  constructor(private readonly pool: () => string) {
    super();
  }

  ask = (): Promise<void> =>
    this.doing(async () => {
      const { bought, from, joining, begin, joiners, rules } = this.said;
      const body = {
        bought: bought ? [`${bought}@${from}`] : [],
        joining: joining ? [`${joining}@${begin}`] : [],
        joiners,
        rules
      };
      const params = { path: { pool_id: this.pool() } };
      this.found = await got(api.POST('/api/v1/seats/{pool_id}/forecast', { params, body }));
    });

  asItIs = (): void => {
    this.found = null;
    this.said = { ...EMPTY };
  };
}

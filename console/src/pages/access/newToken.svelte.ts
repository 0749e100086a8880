/** A new token: of oneself, or of an integration one answers for. */
import { api, got, type Schemas } from '../../lib/api';
import { Load } from '../../lib/load.svelte';
import { changed } from '../../lib/query.svelte';
import { session } from '../../lib/session.svelte';

export class NewToken {
  body = $state<Schemas['NewToken'] & { days: number }>({
    name: '',
    scope: 'viewer',
    days: 90,
    password: '',
    integration: ''
  });
  readonly me = session.view!.operator.login;
  private readonly owned = new Load(() => {
    const query = { owner: this.me, active: true, limit: 200 };
    return got(api.GET('/api/v1/integrations', { params: { query } }));
  });
  readonly make: Load<Schemas['NewTokenReply']>;

  constructor() {
    this.make = new Load(async () => {
      const token = await got(api.POST('/api/v1/tokens', { body: this.body }));
      this.body.password = '';
      changed(['access']);
      return token;
    });
    void this.owned.run();
  }

  readonly mine = $derived.by(() => this.owned.data?.items ?? []);
}

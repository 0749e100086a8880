/** One operator: their role, whether they work with Yugum, and a link to sign in with. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { changed } from '../../lib/query.svelte';

type Row = Schemas['OperatorRow'];

export class Operating extends Acts {
  role = $state<NonNullable<Schemas['OperatorChange']['role']>>('viewer');
  /** Shown this once. */
  link = $state('');

  constructor(private readonly row: () => Row) {
    super();
    this.role = row().role as typeof this.role;
  }

  become(body: Schemas['OperatorChange']): Promise<void> {
    const params = { path: { operator_id: this.row().id } };
    return this.doing(async () => {
      await got(api.PATCH('/api/v1/operators/{operator_id}', { params, body }));
      changed(['access']);
    });
  }

  letIn(): Promise<void> {
    const params = { path: { login: this.row().login } };
    return this.doing(async () => {
      this.link = (await got(api.POST('/api/v1/operators/{login}/link', { params }))).link;
    });
  }
}

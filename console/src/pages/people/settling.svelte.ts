/** A difference that may stay as it is, until a day or for good, or may not stay any longer. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { changed } from '../../lib/query.svelte';

type Row = Schemas['StandingRow'];

export class Settling extends Acts {
  /** The one that is being accepted. */
  open = $state.raw<Row | null>(null);
  reason = $state('');
  ends = $state('');

  begin(row: Row): void {
    [this.open, this.reason, this.ends, this.problem] = [row, '', '', null];
  }

  accept(): Promise<void> {
    const row = this.open!;
    return this.doing(async () => {
      const { reason, ends } = this;
      const body = {
        who: row.subject_id,
        application_id: row.application_id,
        kind: row.kind as Schemas['Accept']['kind'],
        item: row.item,
        side: row.side as Schemas['Accept']['side'],
        reason,
        ends
      };
      await got(api.POST('/api/v1/standing/accepted', { body }));
      this.open = null;
      changed(['findings']);
    });
  }

  reopen(acceptance_id: string): Promise<void> {
    const params = { path: { acceptance_id } };
    return this.doing(async () => {
      await got(api.DELETE('/api/v1/standing/accepted/{acceptance_id}', { params }));
      changed(['findings']);
    });
  }
}

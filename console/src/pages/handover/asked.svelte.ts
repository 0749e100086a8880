/** Who is asked whether they take something over, and what an operator notes for them. */
import { api, got, type Schemas } from '../../lib/api';
import { ask, type Asked } from '../../lib/query.svelte';

export type Row = Schemas['TakeoverRow'];
type Page = Schemas['Page_TakeoverRow_'];
type Said = Schemas['TakeoverReply']['answer'];

export class Questions {
  /** For whom an answer is noted, by its id. */
  about = $state('');
  said = $state<{ answer: Said; to: string; note: string }>({
    answer: 'accepted',
    to: '',
    note: ''
  });
  readonly load: Asked<Page> = ask(
    ['people', 'accounts', 'decisions'],
    () => ['handover', 'asked'],
    (signal) =>
      got(
        api.GET('/api/v1/takeovers', { params: { query: { answer: 'open', limit: 200 } }, signal })
      )
  );

  get rows(): Row[] {
    return this.load.data?.items ?? [];
  }

  begin(row: Row): void {
    this.about = row.id;
    this.said = { answer: 'accepted', to: '', note: '' };
  }

  note = (): Promise<void> =>
    this.load.after(async () => {
      const params = { path: { takeover_id: this.about } };
      const { answer, note } = this.said;
      const body = { answer, note, to: answer === 'passed-on' ? this.said.to : '' };
      await got(api.POST('/api/v1/takeovers/{takeover_id}/answer', { params, body }));
      this.about = '';
    });
}

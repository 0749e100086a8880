/** Somebody's fields as they are typed anew: only what differs is stored. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';

/** In the order of the form; days and managers are said where somebody moves, leaves or is extended. */
export const PARTS = {
  'Who it is': [
    'given_name',
    'family_name',
    'middle_name',
    'nick_name',
    'display_name',
    'honorific_prefix',
    'honorific_suffix',
    'employee_number'
  ],
  'Reached at': ['mail', 'outside_mail', 'phone', 'mobile', 'preferred_language', 'locale'],
  'Where they work': [
    'department',
    'title',
    'site',
    'user_type',
    'cost_center',
    'division',
    'organization'
  ]
} as const;

export class Correcting extends Acts {
  fields = $state<Record<string, string>>({});
  reason = $state('');
  /** Names of the organisation's own attributes, as fields. */
  readonly own: string[];
  private readonly before: Record<string, string>;
  private right: Schemas['Doubted'][] = [];

  constructor(private readonly view: Schemas['PersonView']) {
    super();
    const own = Object.fromEntries(Object.entries(view.own).map(([n, v]) => [`own.${n}`, v]));
    const plain = Object.values(PARTS).flat();
    this.own = Object.keys(own);
    this.before = { ...Object.fromEntries(plain.map((name) => [name, view[name]])), ...own };
    this.fields = { ...this.before };
  }

  get changes(): Record<string, string> {
    const changed = Object.entries(this.fields).filter(
      ([name, value]) => value.trim() !== this.before[name]
    );
    return Object.fromEntries(changed.map(([name, value]) => [name, value.trim()]));
  }

  isRight(place: string): void {
    this.right = [...this.right, place as Schemas['Doubted']];
    this.problem = null;
  }

  /** Store what differs. */
  save(done: () => void): Promise<void> {
    return this.doing(async () => {
      const { id, rev } = this.view;
      const params = { path: { who: id }, header: { 'if-match': `"${rev}"` } };
      const body = { changes: this.changes, reason: this.reason, right: this.right };
      await got(api.PATCH('/api/v1/people/{who}', { params, body }));
      done();
    });
  }
}

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
  /** A day of birth, of which a digest is kept; nobody can read it again. */
  birthday = $state('');
  /** Who may be the same person by it. */
  same = $state.raw<Schemas['SameBirthday'][]>([]);
  /** All of it is stored; what follows from it is still to be shown. */
  stored = $state(false);
  /** Names of the organisation's own attributes, as fields. */
  readonly own: string[];
  private before = $state<Record<string, string>>({});
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

  /** How many things are to be stored. */
  get count(): number {
    return Object.keys(this.changes).length + (this.birthday ? 1 : 0);
  }

  /** Store what differs; who may be the same person is told before what follows. */
  save(done: () => void): Promise<void> {
    return this.doing(async () => {
      const { birthday, changes } = this;
      const { id, rev } = this.view;
      const path = { who: id };
      if (Object.keys(changes).length) {
        const params = { path, header: { 'if-match': `"${rev}"` } };
        const body = { changes, reason: this.reason, right: this.right };
        await got(api.PATCH('/api/v1/people/{who}', { params, body }));
        this.before = { ...this.before, ...changes };
      }
      if (birthday) {
        const params = { path };
        const body = { birthday };
        this.same = await got(api.PUT('/api/v1/people/{who}/birthday', { params, body }));
        this.birthday = '';
      }
      this.stored = true;
      if (!this.same.length) done();
    });
  }
}

/** Where somebody is named without owning it, and who is to stand there. */
import { api, got, type Schemas } from '../../lib/api';
import { ask, type Asked } from '../../lib/query.svelte';

type View = Schemas['ReferencesView'];
export type NewKey = Schemas['ReplacedKeyRow'];
export type Place = Schemas['ReferenceRow'];

export class Naming {
  readonly load: Asked<View>;
  said = $state({ days: 7, reason: '' });
  /** The dockets that replace keys. */
  dockets = $state.raw<string[]>([]);
  /** Why keys in other applications are left as they are. */
  left = $state.raw<string[]>([]);

  constructor(private readonly who: () => string) {
    this.load = ask(
      ['people', 'accounts', 'decisions', 'findings', 'rules', 'dockets'],
      () => ['references', this.who()],
      (signal) =>
        got(api.GET('/api/v1/people/{who}/references', { params: { path: this.path }, signal }))
    );
  }

  private get path(): { who: string } {
    return { who: this.who() };
  }

  /** Others are put in their place at once; they have left. */
  redirect = (): Promise<void> =>
    this.load.after(() =>
      got(api.POST('/api/v1/people/{who}/references', { params: { path: this.path } }))
    );

  /** New keys, of whoever comes after, for what runs with theirs. */
  replace = (): Promise<void> =>
    this.load.after(async () => {
      const params = { path: this.path };
      const body = { ...this.said, places: [], reference: '' };
      const path = '/api/v1/people/{who}/references/keys';
      const done = await got(api.POST(path, { params, body }));
      this.dockets = done.dockets;
      this.left = done.left;
      this.said = { days: 7, reason: '' };
    });

  /** Whoever answers for a program gets another link to its new key. */
  tell = (key: NewKey): Promise<void> =>
    this.load.after(() => {
      const params = { path: { ...this.path, key_id: key.id } };
      return got(api.POST('/api/v1/people/{who}/references/keys/{key_id}', { params }));
    });
}

/** What becomes of a place, in words. */
export function becomes(place: Place): string {
  if (place.how === 'stays') return 'stays, by choice';
  if (place.how === 'open') return `open: ${place.why}`;
  if (place.how === 'by-hand') return place.after ? 'by hand' : `by hand: ${place.why}`;
  const what = place.replaceable ? 'a new key of' : 'to';
  return `${what} ${place.to_name}, with the leaving`;
}

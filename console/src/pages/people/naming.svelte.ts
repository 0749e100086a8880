/** Where somebody is named without owning it, and who is to stand there. */
import { api, got, type Schemas } from '../../lib/api';
import { ask, type Asked } from '../../lib/query.svelte';

type View = Schemas['ReferencesView'];
export type Place = Schemas['ReferenceRow'];

export class Naming {
  readonly load: Asked<View>;

  constructor(private readonly who: () => string) {
    this.load = ask(
      ['people', 'accounts', 'decisions', 'findings', 'rules'],
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
}

/** What becomes of a place, in words. */
export function becomes(place: Place): string {
  if (place.how === 'stays') return 'stays, by choice';
  if (place.how === 'open') return `open: ${place.why}`;
  if (place.how === 'by-hand') return place.after ? 'by hand' : `by hand: ${place.why}`;
  return `to ${place.to_name}, with the leaving`;
}

/** The figures beside the pages' names: each is what its page counts. */
import { api, got, type Schemas } from './api';
import type { Named } from './pages';
import { ask, type Asked } from './query.svelte';

type Counted = Schemas['Figures'];
const NUMBERS: Partial<Record<Named, keyof Counted>> = {
  people: 'people',
  dockets: 'dockets',
  applications: 'applications',
  findings: 'findings',
  rules: 'rules'
};
const ALERTS: Partial<Record<Named, (figures: Counted) => number>> = {
  seats: (f) => f.waiting_seats,
  waiting: (f) => f.tasks + f.approvals
};

export class Figures {
  readonly asked: Asked<Counted> = ask(
    [
      'people',
      'dockets',
      'seats',
      'waiting',
      'applications',
      'findings',
      'rules',
      'accounts',
      'mails'
    ],
    () => ['figures'],
    (signal) => got(api.GET('/api/v1/status/counts', { signal }))
  );

  /** How many of a page's wait for somebody. */
  waiting(page: Named): number {
    return (this.asked.data && ALERTS[page]?.(this.asked.data)) || 0;
  }

  /** How many there are, in words; '' where there are none. */
  count(page: Named): string {
    const { data } = this.asked;
    const name = NUMBERS[page];
    if (!data || !name) return '';
    const more = data.over?.includes(name) ? 'over ' : '';
    const count = data[name] as number;
    return count ? more + count.toLocaleString('en-GB') : '';
  }
}

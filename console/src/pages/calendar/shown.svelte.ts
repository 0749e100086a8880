/** The month that is looked at: its weeks, what is dated on each day, the day that is chosen. */
import { api, got, type Schemas } from '../../lib/api';
import { plural } from '../../lib/format';
import { ask, type Asked } from '../../lib/query.svelte';
import { session } from '../../lib/session.svelte';
import { VERBS } from '../../lib/words';
import { dayKey, monthDays, shifted } from './month';

export type Entry = Schemas['CalendarEntry'];
const MOST = 5000;
const KINDS: Record<Entry['kind'], string> = {
  ...VERBS,
  close: 'closing',
  purge: 'window’s end',
  recheck: 'second look',
  remind: 'reminder'
};
const MANY: Record<string, string> = { 'window’s end': 'windows’ ends', absence: 'absences' };

export const kindOf = (entry: Entry): string => KINDS[entry.kind] ?? entry.kind;

/** How many of each kind, in words. */
export function summed(entries: Entry[]): string[] {
  const counts: Record<string, number> = {};
  for (const entry of entries) counts[kindOf(entry)] = (counts[kindOf(entry)] ?? 0) + 1;
  return Object.entries(counts).map(([kind, count]) => {
    const word = kind.toLowerCase();
    return plural(count, word, MANY[word]);
  });
}

async function datedIn(days: string[], signal: AbortSignal): Promise<Entry[]> {
  const entries: Entry[] = [];
  let cursor: string | undefined;
  do {
    const query = {
      begin: `${days[0]}T00:00:00Z`,
      until: `${shifted(days.at(-1) ?? '', 2)}T00:00:00Z`,
      limit: 200,
      cursor
    };
    const page = await got(api.GET('/api/v1/calendar', { params: { query }, signal }));
    entries.push(...page.items);
    cursor = page.next ?? undefined;
  } while (cursor && entries.length < MOST);
  return entries;
}

export class ShownMonth {
  readonly asked: Asked<Entry[]>;
  private chosen = $state('');
  private turned = $state('');

  constructor() {
    this.asked = ask(
      ['dates', 'dockets', 'people'],
      () => ['calendar', this.month],
      (signal) => (this.month ? datedIn(monthDays(this.month), signal) : Promise.resolve([]))
    );
  }

  get today(): string {
    return session.clock ? dayKey(session.clock.now, session.zone) : '';
  }

  get month(): string {
    return this.turned || this.today.slice(0, 7);
  }

  get day(): string {
    return this.chosen || (this.turned ? `${this.turned}-01` : this.today);
  }

  set day(key: string) {
    this.chosen = key;
  }

  weeks = $derived.by(() => {
    const days = this.month ? monthDays(this.month) : [];
    return Array.from({ length: days.length / 7 }, (_, n) => days.slice(n * 7, n * 7 + 7));
  });

  byDay = $derived.by(() => {
    const found: Record<string, Entry[]> = {};
    for (const entry of this.asked.data ?? []) {
      (found[dayKey(entry.at, session.zone)] ??= []).push(entry);
    }
    return found;
  });

  turn(by: number): void {
    const [year = 0, number = 1] = this.month.split('-').map(Number);
    this.turned = new Date(Date.UTC(year, number - 1 + by, 1)).toISOString().slice(0, 7);
    this.chosen = '';
  }
}

/** What pickers look up while somebody types: people, known values, and what words for a date mean. */
import { api, got, type Problem, type Schemas } from './api';
import { exactly } from './format';
import { client, said } from './query.svelte';
import type { operations } from './schema';

const PAUSE = 120;

/** One question at a time: a later one cancels the one before. */
class Asking {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private control: AbortController | undefined;

  ask(call: (signal: AbortSignal) => Promise<void>, pause = PAUSE): void {
    clearTimeout(this.timer);
    this.control?.abort();
    const control = (this.control = new AbortController());
    this.timer = setTimeout(() => {
      void call(control.signal).catch((error: unknown) => {
        if (!control.signal.aborted) said(error);
      });
    }, pause);
  }
}

/** People by any part of a name, login or number; who was picked stays among them. */
export class People {
  found = $state.raw<Schemas['PersonRow'][]>([]);
  typed = $state('');
  /** What the field says: the name of who is picked, or what is typed. */
  shown = $state('');
  private picked: Schemas['PersonRow'] | undefined;
  private readonly asking = new Asking();

  constructor(login: string) {
    if (login) void this.know(login);
  }

  private async know(login: string): Promise<void> {
    this.shown = login;
    const page = await this.look(login);
    this.picked = page.find((p) => p.user_name === login);
    if (this.picked) this.shown = this.picked.display_name;
    this.found = page;
  }

  private async look(q: string, signal?: AbortSignal): Promise<Schemas['PersonRow'][]> {
    const params = { query: { q, limit: 20 } };
    return (await got(api.GET('/api/v1/people', { params, signal }))).items;
  }

  ask(typed: string): void {
    this.typed = this.shown = typed;
    this.asking.ask(async (signal) => {
      const found = typed.trim() ? await this.look(typed.trim(), signal) : [];
      const mine = this.picked;
      this.found = mine && !found.some((p) => p.id === mine.id) ? [...found, mine] : found;
    });
  }

  /** Somebody of those found, or as typed. */
  pick(login: string): void {
    this.picked = this.found.find((p) => p.user_name === login);
    this.shown = this.picked?.display_name ?? login;
  }
}

type Field = operations['people.values']['parameters']['query']['field'];

/** What people have in a field, by how it begins. */
export class Values {
  found = $state.raw<string[]>([]);
  private readonly asking = new Asking();

  constructor(private readonly field: Field) {
    this.ask('', 0);
  }

  ask(q: string, pause = PAUSE): void {
    const params = { query: { field: this.field, q } };
    // What is here already answers at once; else a key pressed meanwhile would take another one.
    this.found = this.found.filter((value) => value.toLowerCase().startsWith(q.toLowerCase()));
    this.asking.ask(async (signal) => {
      this.found = await client.fetchQuery({
        queryKey: ['values', this.field, q],
        queryFn: () => got(api.GET('/api/v1/people/values', { params, signal })),
        staleTime: 60_000
      });
    }, pause);
  }
}

/** What words for a date mean, as the service reads them: said in full before it is taken. */
export class Moment {
  private answer = $state.raw<Schemas['MomentView'] | null>(null);
  problem = $state.raw<Problem | null>(null);
  private readonly asking = new Asking();

  constructor(what: () => { said: string; who: string; begins: boolean }) {
    $effect(() => {
      const { said: text, who, begins } = what();
      this.look(text.trim(), who, begins);
    });
  }

  private look(text: string, who: string, begins: boolean): void {
    if (!text) {
      this.asking.ask(async () => {}, 0);
      [this.answer, this.problem] = [null, null];
      return;
    }
    const params = { query: { said: text, who, day_begins: begins } };
    this.asking.ask(async (signal) => {
      try {
        this.answer = await got(api.GET('/api/v1/clock/moment', { params, signal }));
        this.problem = null;
      } catch (error) {
        if (!signal.aborted) [this.answer, this.problem] = [null, said(error)];
      }
    });
  }

  /** In full, or what is unclear. */
  get read(): string {
    if (this.problem) return `${this.problem.message} ${this.problem.remedy}`;
    return this.answer ? exactly(this.answer.at, this.answer.zone) : '';
  }

  /** The day that is meant, as its zone has it. */
  get day(): string {
    if (!this.answer) return '';
    const parts = { year: 'numeric', month: '2-digit', day: '2-digit' } as const;
    const form = new Intl.DateTimeFormat('sv-SE', { timeZone: this.answer.zone, ...parts });
    return form.format(new Date(this.answer.at));
  }

  /** Another day at the time that is meant now. */
  on(day: string): string {
    if (!this.answer) return day;
    const form = { hour: '2-digit', minute: '2-digit', timeZone: this.answer.zone } as const;
    return `${day} ${new Intl.DateTimeFormat('en-GB', form).format(new Date(this.answer.at))}`;
  }
}

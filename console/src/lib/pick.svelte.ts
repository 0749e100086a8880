/** What pickers look up while somebody types: people, known values, and what words for a date mean. */
import { api, got, type Problem, type Schemas } from './api';
import { exactly } from './format';
import { applications, ask, type Asked } from './query.svelte';
import type { operations } from './schema';

const PAUSE = 120;

/** What is typed, once nobody has typed for a moment. */
class Paused {
  text = $state('');
  private timer: ReturnType<typeof setTimeout> | undefined;

  say(text: string): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => (this.text = text), PAUSE);
  }
}

type Person = Schemas['PersonRow'];

function fits(person: Person, typed: string): boolean {
  const text = `${person.display_name} ${person.user_name} ${person.employee_number}`.toLowerCase();
  return typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

/** People by any part of a name, login or number; who was picked stays among them. */
export class People {
  /** What the field says: the name of who is picked, or what is typed. */
  shown = $state('');
  private typed = $state('');
  private picked = $state.raw<Person | undefined>();
  private readonly paused = new Paused();
  private readonly asked: Asked<Person[]> = ask(
    ['people'],
    () => ['people by', this.paused.text],
    async (signal) => {
      const params = { query: { q: this.paused.text, limit: 20 } };
      if (!this.paused.text) return [];
      return (await got(api.GET('/api/v1/people', { params, signal }))).items;
    }
  );

  constructor(login: string) {
    this.shown = this.typed = this.paused.text = login;
  }

  found = $derived.by((): Person[] => {
    const known = this.asked.data ?? [];
    // Until the answer to what is typed is here, only who fits it: a key would take somebody else.
    const waits = this.paused.text !== this.typed || this.asked.busy;
    const found = waits ? known.filter((p) => fits(p, this.typed)) : known;
    const mine = this.picked;
    return mine && !found.some((p) => p.id === mine.id) ? [...found, mine] : found;
  });

  /** What is said where nobody is found. */
  get none(): string {
    if (this.asked.problem) return this.asked.problem.message;
    return this.shown ? `Nobody fits “${this.shown}”.` : 'Any part of a name, login or number.';
  }

  say(typed: string): void {
    this.shown = typed;
    this.typed = typed.trim();
    this.paused.say(this.typed);
  }

  /** Somebody of those found, or as typed. */
  pick(login: string): void {
    this.picked = this.found.find((p) => p.user_name === login);
    this.shown = this.picked?.display_name ?? login;
  }
}

type Field = operations['people.values']['parameters']['query']['field'];

/** Texts that are offered while somebody types. */
export interface Known {
  readonly found: string[];
  readonly problem: Problem | null;
  say(typed: string): void;
}

/** What people have in a field, by how it begins. */
export class Values implements Known {
  private typed = $state('');
  private readonly paused = new Paused();
  private readonly asked: Asked<string[]>;

  constructor(field: Field) {
    this.asked = ask(
      ['people'],
      () => ['values', field, this.paused.text],
      (signal) => {
        const params = { query: { field, q: this.paused.text } };
        return got(api.GET('/api/v1/people/values', { params, signal }));
      }
    );
  }

  /** What is here already answers at once; else a key pressed meanwhile would take another one. */
  found = $derived.by((): string[] => {
    const begins = this.typed.toLowerCase();
    return (this.asked.data ?? []).filter((value) => value.toLowerCase().startsWith(begins));
  });

  get problem(): Problem | null {
    return this.asked.problem;
  }

  say(typed: string): void {
    this.typed = typed;
    this.paused.say(typed);
  }
}

/** The roles of the rules in force: there are few enough to be here at once. */
export class Roles implements Known {
  private typed = $state('');
  private readonly asked = ask(
    ['rules'],
    () => ['roles'],
    (signal) => got(api.GET('/api/v1/roles', { signal }))
  );

  found = $derived.by((): string[] => {
    const part = this.typed.toLowerCase();
    const names = (this.asked.data ?? []).map((role) => role.name);
    return names.filter((name) => name.toLowerCase().includes(part));
  });

  get problem(): Problem | null {
    return this.asked.problem;
  }

  say(typed: string): void {
    this.typed = typed;
  }
}

export interface Named {
  application: string;
  kind: operations['applications.names']['parameters']['query']['kind'];
}

/** Entitlements, licenses or settings of an application, by any part of their name. */
export class Names implements Known {
  private typed = $state('');
  private readonly paused = new Paused();
  private readonly asked: Asked<string[]>;

  constructor(private readonly of: () => Named) {
    this.asked = ask(
      ['applications', 'rules', 'seats'],
      () => ['names', of().application, of().kind, this.paused.text],
      async (signal) => {
        const { application: application_id, kind } = of();
        if (!application_id) return [];
        const params = { path: { application_id }, query: { kind, q: this.paused.text } };
        return got(api.GET('/api/v1/applications/{application_id}/names', { params, signal }));
      }
    );
  }

  found = $derived.by((): string[] => {
    const part = this.typed.toLowerCase();
    return (this.asked.data ?? []).filter((name) => name.toLowerCase().includes(part));
  });

  /** Where no application is picked, that is what is missing. */
  get problem(): Problem | null {
    return this.asked.problem;
  }

  say(typed: string): void {
    this.typed = typed;
    this.paused.say(typed);
  }
}

/** Applications by any part of their name or id: there are few enough to be here at once. */
export class Applications {
  /** What the field says: the name of the one picked, or what is typed. */
  shown = $state('');
  private readonly asked = applications();

  found = $derived.by(() => {
    const typed = this.shown.trim().toLowerCase();
    const all = this.asked.data ?? [];
    if (all.some((one) => one.name === this.shown)) return all;
    return all.filter((one) => `${one.name} ${one.id}`.toLowerCase().includes(typed));
  });

  get none(): string {
    return this.asked.problem?.message ?? `No application fits “${this.shown}”.`;
  }

  /** Whether an id is one of theirs: of any other the list would empty the field. */
  has(id: string): boolean {
    return (this.asked.data ?? []).some((one) => one.id === id);
  }

  /** The id of the one that is said by its id or name; what is neither stays as it was typed. */
  pick(said: string): string {
    const all = this.asked.data ?? [];
    const one = all.find((a) => a.id === said || a.name.toLowerCase() === said.toLowerCase());
    this.shown = one?.name ?? said;
    return one?.id ?? said;
  }
}

interface Meant {
  said: string;
  who: string;
  /** Whether a day alone is its beginning. */
  begins: boolean;
}

/** What words for a date mean, as the service reads them: said in full before it is taken. */
export class Moment {
  private readonly paused = new Paused();
  private readonly asked: Asked<Schemas['MomentView'] | null>;

  constructor(private readonly what: () => Meant) {
    $effect(() => this.paused.say(what().said.trim()));
    this.asked = ask(
      ['clock'],
      () => ['moment', this.paused.text, what().who, what().begins],
      async (signal) => {
        const query = { said: this.paused.text, who: what().who, day_begins: what().begins };
        return query.said
          ? got(api.GET('/api/v1/clock/moment', { params: { query }, signal }))
          : null;
      }
    );
  }

  /** What was last asked is of what stands there now. */
  private get current(): boolean {
    return this.paused.text === this.what().said.trim() && !this.asked.busy;
  }

  get problem(): Problem | null {
    return this.current ? this.asked.problem : null;
  }

  private get answer(): Schemas['MomentView'] | null {
    return this.current && !this.asked.problem ? this.asked.data : null;
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

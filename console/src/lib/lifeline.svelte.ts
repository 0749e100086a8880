/** The geometry of a lifeline: lanes of bars over time, month rules, events to walk. */
import { KINDS } from './words';
import type { Schemas } from './api';
import { dateOf, dayOf, exactly } from './format';

export type Zoom = 'week' | 'month' | 'year';
const DAY = 86_400_000;
const SPAN: Record<Zoom, [number, number]> = { week: [6, 18], month: [30, 110], year: [90, 275] };
export const LEFT = 168;
export const ROW = 36;
export const TOP = 40;

export interface Lane {
  name: string;
  sub: string;
  bars: Schemas['Bar'][];
}

export interface Drawn {
  state: string;
  planned: boolean;
  x: number;
  width: number;
  label: string;
  ends: boolean;
}

export interface Event {
  at: string;
  text: string;
}

export class Lifeline {
  zoom = $state<Zoom>('month');
  width = $state(900);
  table = $state(false);
  walked = $state(-1);

  constructor(
    private readonly view: () => Schemas['PersonView'],
    private readonly zone: () => string
  ) {}

  get lanes(): Lane[] {
    const view = this.view();
    const kind = (k: string, w: string) => `${KINDS[k] ?? k} · ${w}`;
    return [
      ...view.accounts.map((a) => ({
        name: a.application_name,
        sub: kind(a.application_kind, a.window),
        bars: a.bars
      })),
      ...view.coming.map((c) => ({
        name: c.application_name,
        sub: kind(c.application_kind, 'to come'),
        bars: c.bars
      }))
    ];
  }

  get now(): number {
    return Date.parse(this.view().now);
  }

  private get range(): [number, number] {
    const [before, after] = SPAN[this.zoom];
    return [this.now - before * DAY, this.now + after * DAY];
  }

  x(at: number): number {
    const [from, until] = this.range;
    const clamped = Math.min(until, Math.max(from, at));
    return LEFT + ((clamped - from) / (until - from)) * (this.width - LEFT - 2);
  }

  get height(): number {
    return TOP + this.lanes.length * ROW + 6;
  }

  /** Rules at month beginnings, or at Mondays when zoomed in. */
  get rules(): { x: number; label: string }[] {
    const [from, until] = this.range;
    const rules: { x: number; label: string }[] = [];
    const day = new Date(from);
    day.setUTCHours(0, 0, 0, 0);
    for (; day.getTime() < until; day.setUTCDate(day.getUTCDate() + 1)) {
      const hit = this.zoom === 'week' ? day.getUTCDay() === 1 : day.getUTCDate() === 1;
      if (!hit || day.getTime() < from) continue;
      const text = dayOf(day.toISOString(), 'UTC').replace(/^\w+,? /, '');
      rules.push({ x: this.x(day.getTime()), label: text });
    }
    return rules.filter((r) => Math.abs(r.x - this.x(this.now)) > 44 || this.zoom === 'year');
  }

  drawn(lane: Lane): Drawn[] {
    const [from, until] = this.range;
    const drawn: Drawn[] = [];
    for (const bar of lane.bars) {
      const start = Date.parse(bar.start);
      const end = bar.until ? Date.parse(bar.until) : until + DAY;
      if (end < from || start > until) continue;
      const x = this.x(start);
      const width = Math.max(0, this.x(end) - x);
      drawn.push({
        state: bar.state,
        planned: bar.planned,
        x,
        width,
        label: this.label(bar, width),
        ends: end <= until
      });
    }
    return drawn;
  }

  private label(bar: Schemas['Bar'], width: number): string {
    if (bar.state === 'active' || bar.state === 'purged') return '';
    if (bar.state === 'deleted' && bar.until) {
      const day = dateOf(bar.until, this.zone()).replace(/ \d{4}$/, '');
      return width > 116 ? `back until ${day}` : width > 60 ? day : '';
    }
    return width > 76 ? bar.state : '';
  }

  /** Everything dated, in order: what happened to whom, and what will. */
  get events(): Event[] {
    const view = this.view();
    const past = view.dockets
      .filter((d) => d.state === 'done')
      .map((d) => ({ at: d.due_at, text: `${d.verb} ${d.number}, done` }));
    const future = view.next.map((s) => ({
      at: s.at,
      text: s.because ? `${s.text} (${s.because})` : s.text
    }));
    return [...past, ...future].sort((a, b) => Date.parse(a.at) - Date.parse(b.at));
  }

  get spoken(): string {
    const event = this.events[this.walked];
    return event ? `${exactly(event.at, this.zone())}: ${event.text}` : '';
  }

  key(event: KeyboardEvent): void {
    const last = this.events.length - 1;
    if (event.key === 'ArrowRight') this.walked = Math.min(last, this.walked + 1);
    else if (event.key === 'ArrowLeft') this.walked = Math.max(0, this.walked - 1);
    else if (event.key === 't') this.table = !this.table;
    else return;
    event.preventDefault();
  }
}

/** A docket as it runs: followed as it changes, summed up by application and phase. */
import { api, got, type Problem, type Schemas } from './api';
import { ask, client, said as wrong, type Asked } from './query.svelte';
import { ACTIONS, STEP_STATES } from './words';
import { plural } from './format';
import { PHASES } from './phases';

export type Docket = Schemas['DocketView'];
export type StepRow = Schemas['StepView'];

export interface Cell {
  state: string;
  text: string;
  more: string;
}

const OPEN = (s: StepRow) => s.state !== 'done' && s.state !== 'left_out';

export class DocketState {
  /** What an act of one's own went wrong with. */
  private failed = $state.raw<Problem | null>(null);

  constructor(
    private readonly name: string,
    private readonly asked: Pick<Asked<Docket>, 'data' | 'problem'> = ask(
      ['dockets'],
      () => ['docket', name],
      (signal) => got(api.GET('/api/v1/dockets/{name}', { params: { path: { name } }, signal }))
    )
  ) {}

  get view(): Docket | null {
    return this.asked.data;
  }

  get problem(): Problem | null {
    return this.failed ?? this.asked.problem;
  }

  /** Do something to it; the answer is the docket as it is then. */
  private async act(call: Promise<Docket>): Promise<void> {
    try {
      client.setQueryData(['docket', this.name], await call);
      this.failed = null;
    } catch (error) {
      this.failed = wrong(error);
    }
  }

  async settle(step: string, how: 'retry' | 'left_out' | 'by_hand', note: string): Promise<void> {
    const params = { path: { step_id: step } };
    await this.act(
      got(api.POST('/api/v1/dockets/steps/{step_id}', { params, body: { how, note } }))
    );
  }

  async cancel(): Promise<void> {
    const params = { path: { name: this.name } };
    const body = { reason: '' };
    await this.act(got(api.POST('/api/v1/dockets/{name}/cancel', { params, body })));
  }

  /** Send the notices that were withheld in confidence. */
  async tell(): Promise<void> {
    const params = { path: { name: this.name } };
    await this.act(got(api.POST('/api/v1/dockets/{name}/tell', { params })));
  }

  /** End it where it is stuck; what is not begun stays a difference. */
  async end(reason: string): Promise<void> {
    const params = { path: { name: this.name } };
    await this.act(got(api.POST('/api/v1/dockets/{name}/end', { params, body: { reason } })));
  }

  get phases(): Schemas['Phase'][] {
    const used = new Set(this.view?.steps.map((s) => s.phase));
    return PHASES.filter((p) => used.has(p));
  }

  get applications(): string[] {
    return [...new Set(this.view?.steps.map((s) => s.application_name))].sort();
  }

  /** One application in one phase, in a few words. */
  cell(application: string, phase: Schemas['Phase']): Cell {
    const steps = (this.view?.steps ?? []).filter(
      (s) => s.application_name === application && s.phase === phase
    );
    if (!steps.length) return { state: 'none', text: '–', more: '' };
    const stuck = steps.find((s) => s.stuck);
    if (stuck) {
      return {
        state: 'stuck',
        text: STEP_STATES[stuck.state] ?? '',
        more: stuck.problem?.text ?? ''
      };
    }
    const open = steps.filter(OPEN);
    if (open.length) {
      const first = open[0]!;
      return {
        state: first.state,
        text: STEP_STATES[first.state] ?? '',
        more: plural(open.length, 'step')
      };
    }
    return { state: 'done', text: said(steps), more: more(steps) };
  }

  /** Accounts that somebody could still get in by, though they are to be cut off. */
  get stillOpen(): StepRow[] {
    return (this.view?.steps ?? []).filter(
      (s) => (s.action === 'cut_off' || s.action === 'lock') && OPEN(s)
    );
  }

  get stuck(): StepRow[] {
    return (this.view?.steps ?? []).filter((s) => s.stuck);
  }
}

function said(steps: StepRow[]): string {
  if (steps.every((s) => s.state === 'left_out')) return 'left out';
  const kinds = new Map<Schemas['Action'], number>();
  for (const step of steps) kinds.set(step.action, (kinds.get(step.action) ?? 0) + 1);
  const words = [...kinds].map(([action, count]) => {
    const nouns: Partial<Record<Schemas['Action'], string>> = { grant: 'group', revoke: 'group' };
    if (nouns[action]) return `${plural(count, nouns[action])} ${ACTIONS[action]}`;
    if (action === 'transfer') return `${moved(steps)} handed over`;
    return ACTIONS[action] ?? action;
  });
  return words.join(', ');
}

function moved(steps: StepRow[]): string {
  const gone = steps.filter((s) => s.action === 'transfer');
  return plural(
    gone.reduce((sum, s) => sum + s.moved, 0),
    'item'
  );
}

function more(steps: StepRow[]): string {
  const ms = Math.max(...steps.map((s) => s.receipt?.took_ms ?? 0));
  const already = steps.every((s) => s.receipt?.outcome === 'already');
  return already ? 'was so already' : ms ? `${(ms / 1000).toFixed(2)} s` : '';
}

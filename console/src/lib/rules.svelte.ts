/** A candidate of the rules: written, checked, tried, adopted. */
import { api, got, type Problem, type Schemas } from './api';
import { asProblem } from './load.svelte';

export class Candidate {
  view = $state.raw<Schemas['RulesView'] | null>(null);
  text = $state('');
  problems = $state.raw<Schemas['RuleProblem'][]>([]);
  trial = $state.raw<Schemas['TrialView'] | null>(null);
  tried = $state('');
  note = $state('');
  carryOut = $state(false);
  adopted = $state.raw<Schemas['AdoptedRules'] | null>(null);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);

  get changed(): boolean {
    return this.view !== null && this.text !== this.view.text;
  }

  /** Whether what was tried is what stands there now: only that may be adopted. */
  get ready(): boolean {
    return this.trial !== null && this.tried === this.text && this.problems.length === 0;
  }

  async load(): Promise<void> {
    await this.guarded(async () => {
      this.view = await got(api.GET('/api/v1/rules'));
      this.text = this.view.text;
    });
  }

  async check(text: string): Promise<Schemas['RuleProblem'][]> {
    try {
      this.problems = await got(api.POST('/api/v1/rules/check', { body: { text } }));
    } catch (error) {
      this.problem = asProblem(error);
      return [];
    }
    return this.problems;
  }

  async tryOut(): Promise<void> {
    await this.guarded(async () => {
      const text = this.text;
      if ((await this.check(text)).length) {
        this.trial = null;
        return;
      }
      this.trial = await got(api.POST('/api/v1/rules/try', { body: { text } }));
      this.tried = text;
    });
  }

  async adopt(): Promise<void> {
    const trial = this.trial;
    if (!trial || !this.ready) return;
    await this.guarded(async () => {
      const body = {
        text: this.text,
        note: this.note,
        after: trial.version,
        take_away: trial.lost,
        carry_out: this.carryOut
      };
      this.adopted = await got(api.POST('/api/v1/rules', { body }));
      this.trial = null;
      this.view = await got(api.GET('/api/v1/rules'));
    });
  }

  private async guarded(call: () => Promise<void>): Promise<void> {
    this.busy = true;
    try {
      await call();
      this.problem = null;
    } catch (error) {
      this.problem = asProblem(error);
    } finally {
      this.busy = false;
    }
  }
}

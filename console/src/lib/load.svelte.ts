/** Something loaded from the service: the data, or the problem, or still on its way. */
import { Problem } from './api';
import { session } from './session.svelte';

export class Load<T> {
  data = $state.raw<T | null>(null);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);

  /** Do something to what was loaded, then load it again; what went wrong is shown like a failed loading. */
  async after(done: () => Promise<unknown>): Promise<void> {
    this.busy = true;
    try {
      await done();
    } catch (error) {
      this.fail(error);
      return;
    }
    await this.run();
  }

  private fail(error: unknown): void {
    this.busy = false;
    this.problem = asProblem(error);
    if (this.problem.status === 401) session.view = null;
  }

  constructor(private readonly call: () => Promise<T>) {}

  /** Load (again); what was there stays until the new is there. */
  async run(): Promise<void> {
    this.busy = true;
    try {
      this.data = await this.call();
      this.problem = null;
      this.busy = false;
    } catch (error) {
      this.fail(error);
    }
  }
}

export function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error;
  return new Problem(0, 'error', error instanceof Error ? error.message : String(error), '', '');
}

/** Acts one after the other: whether one is under way, and what went wrong with the last. */
export class Acts {
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);

  protected async doing(act: () => Promise<void>): Promise<void> {
    this.busy = true;
    this.problem = null;
    try {
      await act();
    } catch (error) {
      this.problem = asProblem(error);
    }
    this.busy = false;
  }
}

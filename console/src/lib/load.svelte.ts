/** Something loaded from the service: the data, or the problem, or still on its way. */
import { Problem } from './api';
import { session } from './session.svelte';

export class Load<T> {
  data = $state.raw<T | null>(null);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);

  constructor(private readonly call: () => Promise<T>) {}

  /** Load (again); what was there stays until the new is there. */
  async run(): Promise<void> {
    this.busy = true;
    try {
      this.data = await this.call();
      this.problem = null;
    } catch (error) {
      this.problem = asProblem(error);
      if (this.problem.status === 401) session.view = null;
    } finally {
      this.busy = false;
    }
  }
}

export function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error;
  return new Problem(0, 'error', error instanceof Error ? error.message : String(error), '', '');
}

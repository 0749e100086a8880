/** Who is signed in, and what time it is for Yugum. */
import { api, got, Problem, useCsrf, type Schemas } from './api';
import { listAt, router, type Query } from './router.svelte';

class Session {
  view = $state.raw<Schemas['SessionView'] | null>(null);
  clock = $state.raw<Schemas['ClockView'] | null>(null);
  asked = $state(false);
  private arrived = false;

  get zone(): string {
    return this.view?.zone ?? 'UTC';
  }

  get mayAct(): boolean {
    return this.view !== null && this.view.operator.role !== 'viewer';
  }

  get mayAdminister(): boolean {
    return this.view?.operator.role === 'administrator';
  }

  private begin(view: Schemas['SessionView']): void {
    useCsrf(view.csrf);
    this.view = view;
    this.arrive(view.start);
  }

  /** Whoever comes to the front door goes where they start; who loads it again, or goes to it, stays. */
  private arrive(start: Schemas['ViewRow'] | null | undefined): void {
    const [entry] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[];
    const door = location.pathname === '/' && entry?.type !== 'reload';
    const first = !this.arrived;
    this.arrived = true;
    if (!first || !door || !start) return;
    const columns: Query = start.columns.length ? { columns: start.columns.join(',') } : {};
    router.go(listAt(start.page, { ...start.query, ...columns }), true);
  }

  /** Find out whether there is a session already. */
  async ask(): Promise<void> {
    try {
      this.begin(await got(api.GET('/api/v1/session')));
    } catch (error) {
      if (!(error instanceof Problem) || error.status !== 401) throw error;
    } finally {
      this.asked = true;
    }
  }

  async signIn(login: string, password: string): Promise<void> {
    this.begin(await got(api.POST('/api/v1/session', { body: { login, password } })));
  }

  async signInByLink(token: string): Promise<void> {
    this.begin(await got(api.POST('/api/v1/session/link', { body: { token } })));
  }

  async signOut(): Promise<void> {
    await got(api.DELETE('/api/v1/session'));
    this.view = null;
  }
}

export const session = new Session();

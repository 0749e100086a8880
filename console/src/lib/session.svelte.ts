/** Who is signed in, and what time it is for Yugum. */
import { api, got, Problem, useCsrf, type Schemas } from './api';

class Session {
  view = $state.raw<Schemas['SessionView'] | null>(null);
  clock = $state.raw<Schemas['ClockView'] | null>(null);
  counts = $state.raw<Schemas['Status'] | null>(null);
  asked = $state(false);

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
    void this.refresh();
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

  /** The clock and the numbers beside the pages' names. */
  async refresh(): Promise<void> {
    if (!this.view) return;
    const [clock, status] = await Promise.all([
      got(api.GET('/api/v1/clock')),
      got(api.GET('/api/v1/status'))
    ]);
    this.clock = clock;
    this.counts = status;
  }
}

export const session = new Session();

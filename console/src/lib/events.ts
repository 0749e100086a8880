/**
 * What others and the workers do, as it happens. One tab of a browser listens and tells the others: a
 * browser has six connections to a service for all of its tabs.
 */
import { changed, type Noun } from './query.svelte';
import { session } from './session.svelte';

const NAME = 'yugum-changes';
const AGAIN = 3000;

class Events {
  private readonly others = new BroadcastChannel(NAME);
  private begun = false;

  /** Listen, or be told by the tab that does; once for all pages. */
  start(): void {
    if (this.begun) return;
    this.begun = true;
    this.others.onmessage = (event: MessageEvent<Noun[] | null>) =>
      changed(event.data ?? undefined);
    // Whichever tab gets the lock keeps it until it is closed; then the next one does.
    void navigator.locks.request(NAME, () => this.listen());
  }

  private tell(nouns?: Noun[]): void {
    changed(nouns);
    this.others.postMessage(nouns ?? null);
  }

  /** For ever; what was missed in a break is asked for anew. */
  private async listen(): Promise<never> {
    for (;;) {
      if (session.view) await this.stream();
      await new Promise((done) => setTimeout(done, AGAIN));
    }
  }

  private stream(): Promise<void> {
    return new Promise((done) => {
      const source = new EventSource('/api/v1/changes');
      source.addEventListener('ready', () => this.tell());
      source.addEventListener('changed', (event) =>
        this.tell((JSON.parse(event.data) as { nouns: Noun[] }).nouns)
      );
      source.onerror = () => {
        source.close();
        done();
      };
    });
  }
}

export const events = new Events();

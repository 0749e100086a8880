/** What somebody is to take over, and what they say to each kind of it. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';

export type Questions = Schemas['TakeoverQuestions'];
export type Question = Questions['questions'][number];
type Said = Schemas['TakeoverLinkReply']['answer'];

export class Takeover extends Acts {
  data = $state.raw<Questions | null>(null);
  /** What is being declined or passed on, by its id. */
  about = $state<{ id: string; how: 'passed-on' | 'declined' } | null>(null);
  said = $state({ to: '', note: '' });

  constructor(private readonly token: string) {
    super();
    void this.doing(async () => {
      this.data = await got(api.POST('/api/v1/takeover-links/open', { body: { token } }));
    });
  }

  /** By whose it is, in the order that is told. */
  get people(): { id: string; name: string; leaves: string | null; questions: Question[] }[] {
    const found = new Map<string, Question[]>();
    for (const q of this.data?.questions ?? [])
      found.set(q.person_id, [...(found.get(q.person_id) ?? []), q]);
    return [...found].map(([id, questions]) => ({
      id,
      name: questions[0]!.name,
      leaves: questions[0]!.leaves_at,
      questions
    }));
  }

  get open(): Question[] {
    return this.data?.questions.filter((q) => q.answer === 'open') ?? [];
  }

  ask(id: string, how: 'passed-on' | 'declined'): void {
    this.about = { id, how };
    this.said = { to: '', note: '' };
  }

  private async say(id: string, answer: Said): Promise<void> {
    const { to, note } = this.said;
    const body = { token: this.token, id, answer, note, to: answer === 'passed-on' ? to : '' };
    this.data = await got(api.POST('/api/v1/takeover-links/answer', { body }));
    this.about = null;
    this.said = { to: '', note: '' };
  }

  accept = (some: Question[]): Promise<void> =>
    this.doing(async () => {
      this.said = { to: '', note: '' };
      for (const one of some) await this.say(one.id, 'accepted');
    });

  send = (): Promise<void> =>
    this.doing(async () => {
      if (this.about) await this.say(this.about.id, this.about.how);
    });
}

/** A joiner as typed: what the rules suggest, what they would give, and storing it. */
import { api, got, type Problem, type Schemas } from '../../lib/api';
import { asProblem } from '../../lib/load.svelte';

const PAUSE = 350;

export class NewJoiner {
  fields = $state({
    given_name: '',
    family_name: '',
    user_name: '',
    mail: '',
    employee_number: '',
    department: '',
    title: '',
    site: '',
    manager: '',
    starts: '',
    contract_ends: '',
    outside_mail: '',
    birthday: '',
    phone: '',
    mobile: '',
    cost_center: ''
  });
  tried = $state.raw<Schemas['Tried'][]>([]);
  gets = $state.raw<Schemas['GivenLine'][] | null>(null);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);
  another = $state(false);
  again = $state(false);
  /** Fields that are right though they look like a slip. */
  private right: Schemas['Doubted'][] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** What the rules would give is asked again a moment after the last key. */
  readonly look = (): void => {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.ask(), PAUSE);
  };

  async ask(): Promise<void> {
    const { department, title, site } = this.fields;
    const body = { department, title, site };
    try {
      this.gets = await got(api.POST('/api/v1/people/would-get', { body }));
    } catch (error) {
      this.problem = asProblem(error);
    }
  }

  /** A login and an address by the rules; what is typed meanwhile is not written over. */
  readonly suggest = async (): Promise<void> => {
    const { family_name, given_name, department, user_name, mail } = this.fields;
    if (!family_name) return;
    try {
      const body = { given: given_name, family: family_name, department };
      const found = await got(api.POST('/api/v1/names/suggest', { body }));
      for (const name of found.names) {
        if (name.kind === 'login') {
          if (this.fields.user_name === user_name) this.fields.user_name = name.name;
          this.tried = name.tried.filter((t) => t.problem);
        }
        if (name.kind === 'mail' && this.fields.mail === mail) this.fields.mail = name.name;
      }
    } catch (error) {
      this.problem = asProblem(error);
    }
  };

  isRight(place: string): void {
    this.right = [...this.right, place as Schemas['Doubted']];
    this.problem = null;
  }

  /** Store them; what a plan is then made for, or null. */
  async save(): Promise<{ login: string; name: string } | null> {
    this.busy = true;
    try {
      const person = {
        ...this.fields,
        another: this.another,
        again: this.again,
        right: this.right
      };
      await got(api.POST('/api/v1/people', { body: { people: [person] } }));
      const name = `${person.given_name} ${person.family_name}`.trim();
      return { login: person.user_name, name };
    } catch (error) {
      this.problem = asProblem(error);
      return null;
    } finally {
      this.busy = false;
    }
  }
}

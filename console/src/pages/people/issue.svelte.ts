/** New credentials for those picked: whose they would be, making them wave after wave, printing slips. */
import { api, got, Problem, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';

const WAVE = 25;
const PRINTED = 100;
/** People whose credentials are made anew at once, in waves. */
export const MOST_ISSUED = 5000;

export class Issue extends Acts {
  /** Whose credentials these would be, in every application that takes one. */
  looked = $state.raw<Schemas['IssuedRow'][] | null>(null);
  made = $state.raw<Schemas['IssuedRow'][]>([]);
  /** Applications that are left out, by name. */
  without = $state.raw<ReadonlySet<string>>(new Set());
  done = $state(false);
  private ids: Record<string, string> = {};

  constructor(private readonly who: string[]) {
    super();
    void this.doing(async () => {
      if (who.length > MOST_ISSUED) {
        const text = `More than ${MOST_ISSUED.toLocaleString('en-GB')} people at once.`;
        throw new Problem(0, 'error', text, 'Filter the list further.', '');
      }
      const applications = await got(api.GET('/api/v1/applications'));
      this.ids = Object.fromEntries(applications.map((a) => [a.name, a.id]));
      this.looked = await this.waves(true, []);
    });
  }

  get names(): string[] {
    return [...new Set((this.looked ?? []).map((r) => r.application_name))].sort();
  }

  get meant(): Schemas['IssuedRow'][] {
    return (this.looked ?? []).filter((r) => !this.without.has(r.application_name));
  }

  toggle(name: string): void {
    const rest = [...this.without].filter((n) => n !== name);
    this.without = new Set(this.without.has(name) ? rest : [...rest, name]);
  }

  private get applications(): string[] {
    return this.names.filter((n) => !this.without.has(n)).map((n) => this.ids[n] ?? n);
  }

  private async waves(look: boolean, applications: string[]): Promise<Schemas['IssuedRow'][]> {
    const rows: Schemas['IssuedRow'][] = [];
    for (let at = 0; at < this.who.length; at += WAVE) {
      const body = { who: this.who.slice(at, at + WAVE), applications, look };
      rows.push(...(await got(api.POST('/api/v1/credentials', { body }))));
      if (!look) this.made = [...rows];
    }
    return rows;
  }

  readonly issue = (): Promise<void> =>
    this.doing(async () => {
      await this.waves(false, this.applications);
      this.done = true;
    });

  /** Each credential is opened by this: a file to print, a hundred people at a time. */
  readonly print = (): Promise<void> =>
    this.doing(async () => {
      for (let at = 0; at < this.who.length; at += PRINTED) {
        const body = { who: this.who.slice(at, at + PRINTED), applications: this.applications };
        const page = await got(
          api.POST('/api/v1/credentials/slips', { body, parseAs: 'blob' as const })
        );
        const link = document.createElement('a');
        link.href = URL.createObjectURL(page as unknown as Blob);
        link.download = at ? `slips-${at / PRINTED + 1}.html` : 'slips.html';
        link.click();
        URL.revokeObjectURL(link.href);
      }
    });
}

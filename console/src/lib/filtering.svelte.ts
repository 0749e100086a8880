/** A filter as it is being put together: of what, and which value. */
import { api, got } from './api';
import type { Field } from './filters';
import { Acts } from './load.svelte';

export class Filtering extends Acts {
  adding = $state('');
  value = $state('');

  constructor(
    private readonly fields: () => Field[],
    private readonly onask: (change: Record<string, string>) => void
  ) {
    super();
  }

  get field(): Field | undefined {
    return this.fields().find((f) => f.name === this.adding);
  }

  /** Something else is chosen, or nothing any more. */
  begin(): void {
    this.value = '';
    this.problem = null;
  }

  /** Whoever is picked is the filter. */
  take(said: string): void {
    if (said) this.onask({ [this.adding]: said });
    this.adding = this.value = '';
  }

  /** A day is the moment at which it begins for the organisation, as the service reads it. */
  private async begins(said: string): Promise<string> {
    const query = { said, day_begins: true };
    return (await got(api.GET('/api/v1/clock/moment', { params: { query } }))).at;
  }

  add(): Promise<void> {
    const [asked, said] = [this.field, this.value.trim()];
    return this.doing(async () => {
      if (asked && said) this.take(asked.day ? await this.begins(said) : said);
      else this.take('');
    });
  }
}

/** People or leavers from a file: what the service has read of it, what is wrong, and taking what is right. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';

type View = Schemas['PeopleFileView'];
type Row = Schemas['FileRowView'];
export type Kind = Schemas['FileKind'];
const SHOWN = 100;

export class PeopleFile extends Acts {
  /** What the next file is of. */
  kind = $state<Kind>('people');
  view = $state.raw<View | null>(null);
  faulty = $state.raw<Row[]>([]);
  taking = $state(false);
  /** How many were good when taking began. */
  all = $state(0);
  private accepted: Record<string, string[]> = {};

  get good(): number {
    return this.view ? this.view.new + this.view.changed : 0;
  }

  /** Send a file to be checked; nobody is made or changed by that. */
  async pick(file: File): Promise<void> {
    this.accepted = {};
    await this.doing(async () => {
      const query = { name: file.name, kind: this.kind, leave: true };
      await this.show(
        await got(
          api.POST('/api/v1/people-files', {
            params: { query },
            body: file as never,
            bodySerializer: (body: unknown) => body as Blob,
            headers: { 'Content-Type': 'text/csv' }
          })
        )
      );
    });
  }

  /** A column is this field; '' leaves it out. */
  async column(name: string, field: string): Promise<void> {
    await this.again({ [name]: field });
  }

  /** A value is right though nobody has it yet. */
  async accept(field: string, value: string): Promise<void> {
    this.accepted = { ...this.accepted, [field]: [...(this.accepted[field] ?? []), value] };
    await this.again({});
  }

  private async again(columns: Record<string, string>): Promise<void> {
    const { view } = this;
    if (!view) return;
    await this.doing(async () => {
      const path = { file_id: view.id };
      const body = { columns, empties: view.empties, accepted: this.accepted };
      await this.show(
        await got(api.POST('/api/v1/people-files/{file_id}/check', { params: { path }, body }))
      );
    });
  }

  /** Take a portion after the other; what is left when it is stopped is taken next time. */
  async take(): Promise<void> {
    this.all = this.good;
    this.taking = true;
    await this.doing(async () => {
      while (this.taking && this.view && this.good) {
        const path = { file_id: this.view.id };
        this.view = await got(
          api.POST('/api/v1/people-files/{file_id}/take', { params: { path } })
        );
      }
      if (this.view) await this.show(this.view);
    });
    this.taking = false;
  }

  /** What came of it since: rows that were planned are taken, some may not fit any more. */
  async look(): Promise<void> {
    const { view } = this;
    if (!view) return;
    await this.doing(async () => {
      const path = { file_id: view.id };
      await this.show(await got(api.GET('/api/v1/people-files/{file_id}', { params: { path } })));
    });
  }

  stop(): void {
    this.taking = false;
  }

  private async show(view: View): Promise<void> {
    this.view = view;
    if (!view.faulty) {
      this.faulty = [];
      return;
    }
    const params = {
      path: { file_id: view.id },
      query: { state: 'faulty', limit: SHOWN } as const
    };
    const page = await got(api.GET('/api/v1/people-files/{file_id}/rows', { params }));
    this.faulty = page.items;
  }
}

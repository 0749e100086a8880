/** A new application: connected, and read at once. */
import { api, got } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { pairs, slug } from './said';

export class Connecting extends Acts {
  fields = $state({ id: '', name: '', kind: 'scim', url: '', secret: '', contact: '' });
  options = $state('');

  /** The short name follows the name until somebody gives it another. */
  name(value: string): void {
    if (this.fields.id === slug(this.fields.name)) this.fields.id = slug(value);
    this.fields.name = value;
  }

  save(done: () => void): Promise<void> {
    const { fields } = this;
    return this.doing(async () => {
      const body = { ...fields, secret: fields.secret || null, options: pairs(this.options) };
      await got(api.POST('/api/v1/applications', { body }));
      const params = { path: { application_id: fields.id } };
      await got(api.POST('/api/v1/applications/{application_id}/read', { params }));
      done();
    });
  }
}

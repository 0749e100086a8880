/** A credential behind a link: shown once, or chosen by whose it is. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';

export class Opening extends Acts {
  readonly token = location.hash.slice(1);
  password = $state('');
  opened = $state.raw<Schemas['OpenedCredential'] | null>(null);
  choosing = $state.raw<Schemas['CredentialRules'] | null>(null);
  chosen = $state.raw<Schemas['ChosenReply'] | null>(null);

  constructor() {
    super();
    history.replaceState(null, '', '/c'); // the token is in no history
  }

  own(): Promise<void> {
    const body = { token: this.token };
    return this.doing(async () => {
      this.choosing = await got(api.POST('/api/v1/credentials/rules', { body }));
    });
  }

  choose(): Promise<void> {
    const body = { token: this.token, password: this.password };
    return this.doing(async () => {
      this.chosen = await got(api.POST('/api/v1/credentials/choose', { body }));
      this.password = '';
    });
  }

  open(): Promise<void> {
    const body = { token: this.token };
    return this.doing(async () => {
      this.opened = await got(api.POST('/api/v1/credentials/open', { body }));
    });
  }
}

<script lang="ts">
  import { api, got, type Problem, type Schemas } from '../../lib/api';
  import Mark from '../../lib/components/Mark.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { asProblem } from '../../lib/load.svelte';
  import OwnPassword from './OwnPassword.svelte';

  let opened = $state.raw<Schemas['OpenedCredential'] | null>(null);
  let problem = $state.raw<Problem | null>(null);
  const token = location.hash.slice(1);
  history.replaceState(null, '', '/c');

  let choosing = $state.raw<Schemas['CredentialRules'] | null>(null);
  let password = $state('');
  let chosen = $state.raw<Schemas['ChosenReply'] | null>(null);

  async function own(): Promise<void> {
    try {
      choosing = await got(api.POST('/api/v1/credentials/rules', { body: { token } }));
      problem = null;
    } catch (error) {
      problem = asProblem(error);
    }
  }

  async function choose(): Promise<void> {
    try {
      const body = { token, password };
      chosen = await got(api.POST('/api/v1/credentials/choose', { body }));
      password = '';
      problem = null;
    } catch (error) {
      problem = asProblem(error);
    }
  }

  async function open(): Promise<void> {
    try {
      opened = await got(api.POST('/api/v1/credentials/open', { body: { token } }));
      problem = null;
    } catch (error) {
      problem = asProblem(error);
    }
  }
</script>

<main>
  <Mark />
  <h1>Your initial credential</h1>
  <ProblemNote {problem} />
  {#if opened}
    <dl>
      <dt>Application</dt>
      <dd>{opened.application}</dd>
      <dt>Login</dt>
      <dd class="mono">{opened.login}</dd>
      {#if opened.place}<dt>For</dt>
        <dd>{opened.place}</dd>{/if}
      <dt>{opened.place ? 'Key' : 'Password'}</dt>
      <dd class="mono secret">{opened.secret}</dd>
    </dl>
    <p>
      This page shows it once. {opened.place
        ? 'Put it in the place of the old one now.'
        : 'Write it down or sign in now, and change it there.'}
    </p>
  {:else if chosen}
    <p role="status">
      The password of {chosen.login} in {chosen.application} is being set (docket {chosen.docket}).
      Sign in there in a minute.
    </p>
  {:else if choosing?.place}
    <p>Behind the link is the key with which {choosing.place} runs; nobody chooses it.</p>
    <button class="button do" onclick={open}>Show it</button>
  {:else if choosing}
    <OwnPassword rules={choosing} bind:password onchoose={choose} />
  {:else if !problem}
    <p>
      It is shown once. Open it when you are ready to use it and nobody looks over your shoulder.
    </p>
    <span class="both">
      <button class="button do" onclick={open} disabled={!token}>Show it</button>
      <button class="button" onclick={own} disabled={!token}>Choose one of my own</button>
    </span>
  {/if}
</main>

<style>
  main {
    width: min(440px, calc(100vw - 32px));
    margin: 14vh auto 0;
    display: grid;
    gap: 14px;
    justify-items: start;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 4px 16px;
  }
  dt {
    color: var(--color-surface-600-400);
  }
  .both {
    display: flex;
    gap: 8px;
  }
  .secret {
    user-select: all;
  }
</style>

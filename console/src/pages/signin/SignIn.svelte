<script lang="ts">
  import Mark from '../../lib/components/Mark.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { asProblem } from '../../lib/load.svelte';
  import type { Problem } from '../../lib/api';
  import { router } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  let login = $state('');
  let password = $state('');
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);

  async function attempt(call: () => Promise<void>): Promise<void> {
    busy = true;
    try {
      await call();
      problem = null;
      if (router.view.page === 'welcome') router.go({ page: 'day' }, true);
    } catch (error) {
      problem = asProblem(error);
    } finally {
      busy = false;
    }
  }

  // The link's token is in the fragment, which no server and no log ever sees.
  const token = router.view.page === 'welcome' ? location.hash.slice(1) : '';
  if (token) {
    history.replaceState(null, '', '/welcome');
    void attempt(() => session.signInByLink(token));
  } else if (router.view.page === 'welcome' && session.view) {
    router.go({ page: 'day' }, true);
  }

  function submit(event: SubmitEvent): void {
    event.preventDefault();
    void attempt(() => session.signIn(login, password));
  }
</script>

<main class="signin">
  <Mark />
  <h1>Sign in</h1>
  <ProblemNote {problem} />
  <form onsubmit={submit}>
    <label class="field"
      ><span>Login</span><input bind:value={login} autocomplete="username" required /></label
    >
    <label class="field">
      <span>Password</span>
      <input type="password" bind:value={password} autocomplete="current-password" required />
    </label>
    <button class="button do" disabled={busy}>Sign in</button>
  </form>
  <p class="small soft">
    A one-time link signs you in by itself. An administrator makes one with
    <span class="mono">yugum operators link LOGIN</span>.
  </p>
</main>

<style>
  .signin {
    width: min(340px, calc(100vw - 32px));
    margin: 14vh auto 0;
    display: grid;
    gap: 14px;
  }
  form {
    display: grid;
    gap: 12px;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';

  interface Props {
    rules: Schemas['CredentialRules'];
    password: string;
    onchoose: () => void;
  }
  let { rules, password = $bindable(), onchoose }: Props = $props();
  const CLASSES: Record<string, [RegExp, string]> = {
    upper: [/[A-Z]/, 'a capital letter'],
    lower: [/[a-z]/, 'a small letter'],
    digit: [/[0-9]/, 'a digit'],
    sign: [/[!#%+,\-./:=?@_~]/, 'a sign']
  };
  const checks = $derived([
    { text: `${rules.length} characters or more`, good: password.length >= rules.length },
    ...rules.needs.map((n) => ({ text: CLASSES[n]![1], good: CLASSES[n]![0].test(password) })),
    {
      text: 'nothing of the login in it',
      good: password !== '' && !password.toLowerCase().includes(rules.login.toLowerCase())
    }
  ]);
  const good = $derived(checks.every((c) => c.good));
</script>

<form
  onsubmit={(e) => {
    e.preventDefault();
    onchoose();
  }}
>
  <p>{rules.login} in {rules.application}</p>
  <label class="field"
    ><span>Your password</span><input
      type="password"
      autocomplete="new-password"
      bind:value={password}
    /></label
  >
  <ul aria-label="What it needs">
    {#each checks as check (check.text)}
      <li class:good={check.good}>{check.good ? '✓' : '·'} {check.text}</li>
    {/each}
  </ul>
  <button class="button do" disabled={!good}>Use it</button>
</form>

<style>
  form {
    display: grid;
    gap: 10px;
    width: 100%;
  }
  li {
    color: var(--color-surface-600-400);
  }
  .good {
    color: var(--color-success-600-400);
  }
  .button {
    justify-self: start;
  }
</style>

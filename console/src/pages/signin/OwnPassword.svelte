<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import NewPassword from '../../lib/components/NewPassword.svelte';
  import { checks } from '../../lib/passwords';

  interface Props {
    rules: Schemas['CredentialRules'];
    password: string;
    onchoose: () => void;
  }
  let { rules, password = $bindable(), onchoose }: Props = $props();
  const good = $derived(checks(rules, password).every((c) => c.good));
</script>

<form
  onsubmit={(e) => {
    e.preventDefault();
    onchoose();
  }}
>
  <p>{rules.login} in {rules.application}</p>
  <NewPassword label="Your password" {rules} bind:value={password} />
  <button class="button do" disabled={!good}>Use it</button>
</form>

<style>
  form {
    display: grid;
    gap: 10px;
    width: 100%;
  }
  .button {
    justify-self: start;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { duty } from '../../lib/words';
  import { offeredOf } from './actions';

  interface Props {
    account: Schemas['AccountLine'];
    onwish: (wish: Wish) => void;
  }
  let { account, onwish }: Props = $props();
  let credential = $state(false);
  const offered = $derived(offeredOf(account));
</script>

<details>
  <summary aria-label="Actions on {account.login} in {account.application_name}">Actions</summary>
  <div>
    {#each offered as [action, word] (action)}
      <button
        class="button slim"
        onclick={() => onwish({ verb: 'account', accounts: [account.id], action })}>{word}</button
      >
    {/each}
    {#if account.takes_credential}
      <button class="button slim" onclick={() => (credential = true)}>Credential …</button>
    {/if}
    {#each account.askable as name (name)}
      <button
        class="button slim"
        onclick={() =>
          onwish({ verb: 'account', accounts: [account.id], action: 'require', duties: [name] })}
        >Ask to {duty(name)} …</button
      >
    {/each}
  </div>
</details>
{#if credential}
  <Later
    load={() => import('./CredentialDialog.svelte')}
    account={account.id}
    onclose={() => (credential = false)}
  />
{/if}

<style>
  summary {
    cursor: pointer;
    color: var(--color-primary-600-400);
    font-size: 13px;
  }
  div {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    margin-top: 4px;
  }
</style>

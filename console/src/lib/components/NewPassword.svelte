<script lang="ts">
  import { checks } from '../passwords';
  import type { Schemas } from '../api';

  interface Props {
    label: string;
    rules: Schemas['CredentialRules'];
    value: string;
  }
  /** A password that is typed, with what it still needs. */
  let { label, rules, value = $bindable() }: Props = $props();
</script>

<label class="field"
  ><span>{label}</span><input type="password" autocomplete="new-password" bind:value /></label
>
<ul aria-label="What it needs">
  {#each checks(rules, value) as check (check.text)}
    <li class:good={check.good}>{check.good ? '✓' : '·'} {check.text}</li>
  {/each}
</ul>

<style>
  li {
    color: var(--color-surface-600-400);
  }
  .good {
    color: var(--color-success-600-400);
  }
</style>

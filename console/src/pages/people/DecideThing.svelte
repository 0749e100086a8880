<script lang="ts">
  import PickApplication from '../../lib/components/pick/PickApplication.svelte';
  import PickKnown from '../../lib/components/pick/PickKnown.svelte';
  import { Names } from '../../lib/pick.svelte';
  import { HOLDINGS, type Deciding } from './deciding.svelte';

  /** What an exception is about: an account, or what one holds. */
  let { it }: { it: Deciding } = $props();
  const WORDS = { entitlement: 'Entitlement', seat: 'License', setting: 'Setting' } as const;
  const kind = $derived(it.holding === 'account' ? 'entitlement' : it.holding);
  const names = new Names(() => ({ application: it.application, kind }));
</script>

<div class="two">
  <PickApplication label="Application" bind:value={it.application} />
  <label class="field"
    ><span>What</span><select bind:value={it.holding} onchange={() => (it.item = '')}>
      {#each Object.entries(HOLDINGS) as [holding, said] (holding)}
        <option value={holding}>{said}</option>
      {/each}
    </select></label
  >
  {#if it.holding !== 'account'}
    <PickKnown
      label={WORDS[it.holding]}
      known={names}
      bind:value={it.item}
      strange={(said) =>
        it.application ? `“${said}” is not known there.` : 'Pick the application first.'}
    />
  {/if}
  {#if it.holding === 'setting'}
    <label class="field"
      ><span>Its value</span><input maxlength="300" bind:value={it.value} /></label
    >
  {/if}
</div>

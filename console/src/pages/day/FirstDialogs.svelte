<script lang="ts">
  import Later from '../../lib/components/Later.svelte';
  import type { Opens } from './steps';

  /** What a first step opens. */
  let { opened, close, onset }: { opened: Opens; close: () => void; onset: () => void } = $props();
</script>

{#if opened === 'password'}
  <Later
    load={() => import('../access/OwnDialog.svelte')}
    what="password"
    onclose={close}
    ondone={() => {
      onset();
      close();
    }}
  />
{:else if opened === 'people'}
  <Later load={() => import('../people/PeopleFile.svelte')} onclose={close} />
{:else if opened === 'application'}
  <Later load={() => import('../applications/Connect.svelte')} onclose={close} onmade={close} />
{/if}

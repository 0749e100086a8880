<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';

  interface Props {
    row: Schemas['ApplicationRow'];
    open: string;
    close: () => void;
    done: () => void;
  }
  let { row, open, close, done }: Props = $props();
</script>

{#if open === 'attributes'}
  <Later load={() => import('./Attributes.svelte')} {row} onclose={close} />
{:else if open === 'leaving'}
  <Later
    load={() => import('./Disconnect.svelte')}
    id={row.id}
    name={row.name}
    connected
    onclose={close}
    ondone={done}
  />
{:else if open === 'holding'}
  <Later load={() => import('./HoldDialog.svelte')} {row} onclose={close} />
{:else if open === 'setting'}
  <Later load={() => import('./Profile.svelte')} {row} onclose={close} onsaved={done} />
{/if}

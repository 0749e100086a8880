<script lang="ts" module>
  /** Which dialog is open. */
  export type Opens = '' | 'setting' | 'leaving' | 'attributes' | 'holding';
</script>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import type { Acting } from './acting.svelte';
  import TrustCell from './TrustCell.svelte';

  interface Props {
    row: Schemas['ApplicationRow'];
    acting: Acting;
    onopen: (what: Opens) => void;
  }
  /** What Yugum may do in an application, and what can be done with it. */
  let { row, acting, onopen }: Props = $props();
  const own = $derived(row.kind !== 'sign-on');
</script>

<div class="acts">
  <label class="may">Yugum may <TrustCell {row} {acting} /></label>
  {#if own}
    <button class="button do" disabled={acting.busy !== ''} onclick={() => acting.read()}
      >{acting.busy || 'Read now'}</button
    >
  {/if}
  {#if session.mayAdminister && own}
    <button class="button" onclick={() => onopen('setting')}>Windows, limits, seats …</button>
  {/if}
  {#if row.attributes.length}
    <button class="button" onclick={() => onopen('attributes')}
      >{plural(row.attributes.length, 'attribute')} …</button
    >
  {/if}
  {#if session.mayAdminister}
    <button class="button" onclick={() => onopen('holding')}>Hold …</button>
    <button class="button" onclick={() => onopen('leaving')}>Disconnect …</button>
  {/if}
</div>

<style>
  .may {
    display: flex;
    gap: 8px;
    align-items: center;
  }
</style>

<script lang="ts">
  import { onMount } from 'svelte';

  interface Props {
    onsettle: (how: 'retry' | 'left_out' | 'by_hand', note: string) => void;
    /** Whether it is what one has come for: Enter then tries again. */
    first?: boolean;
  }
  let { onsettle, first = false }: Props = $props();
  let note = $state('');
  let retry: HTMLButtonElement;
  onMount(() => {
    if (first) retry.focus();
  });
</script>

<div class="settle">
  <button class="button" bind:this={retry} onclick={() => onsettle('retry', '')}>Retry</button>
  <input
    class="why"
    aria-label="Why, or what was done by hand"
    placeholder="why, or what was done"
    bind:value={note}
  />
  <button class="button" disabled={!note.trim()} onclick={() => onsettle('left_out', note)}
    >Leave out</button
  >
  <button class="button" disabled={!note.trim()} onclick={() => onsettle('by_hand', note)}
    >Done by hand</button
  >
</div>

<style>
  .settle {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-top: 4px;
  }
  .settle .button {
    padding: 2px 9px;
  }
</style>

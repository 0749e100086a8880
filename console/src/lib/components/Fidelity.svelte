<script lang="ts">
  import type { Schemas } from '../api';
  import StepMark from './StepMark.svelte';

  let { lines }: { lines: Schemas['Fidelity'][] } = $props();
  const lost = $derived(lines.filter((l) => !l.comes_back));
  const back = $derived(lines.filter((l) => l.comes_back));
</script>

{#if lines.length}
  <h2>What comes back, and what cannot</h2>
  {#each [...lost, ...back] as line, index (index)}
    <div class="line">
      <StepMark state={line.comes_back ? 'done' : 'stuck'} />
      <span><b>{line.what}</b> <span class="soft">{line.why}</span></span>
    </div>
  {/each}
{/if}

<style>
  .line {
    display: flex;
    gap: 8px;
  }
</style>

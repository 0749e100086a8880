<script lang="ts">
  import type { Candidate } from '../../lib/rules.svelte';

  /** Trying rules on everybody, then adopting them. */
  let { candidate }: { candidate: Candidate } = $props();
</script>

<div class="buttons">
  <button class="button" onclick={() => candidate.tryOut()} disabled={candidate.busy}
    >Try it on everybody</button
  >
  {#if candidate.ready && candidate.changed}
    <input aria-label="Note for the record" placeholder="Why" bind:value={candidate.note} />
    <label class="check"
      ><input type="checkbox" bind:checked={candidate.carryOut} /> carry it out at once</label
    >
    <button class="button do" onclick={() => candidate.adopt()} disabled={candidate.busy}
      >Adopt as version {candidate.view!.version + 1}</button
    >
  {/if}
</div>

<style>
  .buttons {
    display: flex;
    gap: 10px;
    align-items: center;
    margin: 12px 0;
    flex-wrap: wrap;
  }
  .check {
    display: flex;
    gap: 6px;
    align-items: center;
  }
</style>

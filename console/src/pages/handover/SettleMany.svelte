<script lang="ts">
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import { plural } from '../../lib/format';
  import type { Board } from './board.svelte';

  /** One who takes over what is picked. */
  let { board }: { board: Board } = $props();
</script>

<form
  class="form-row stays"
  aria-label="Choose for many"
  onsubmit={(event) => {
    event.preventDefault();
    void board.settle();
  }}
>
  <b>{plural(board.chosen.length, 'line')} chosen</b>
  <PickPerson label="Who takes over" bind:value={board.said.to} />
  <label class="field"
    ><span>Why</span><input required maxlength="300" bind:value={board.said.reason} /></label
  >
  <button class="button do" disabled={board.acting}>Settle them</button>
  <button class="button plain" type="button" onclick={() => board.list.drop()}>Pick none</button>
</form>

<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Disconnecting } from './disconnecting.svelte';

  interface Props {
    id: string;
    name: string;
    connected: boolean;
    onclose: () => void;
    ondone: () => void;
  }
  let { id, name, connected, onclose, ondone }: Props = $props();

  // svelte-ignore state_referenced_locally
  const it = new Disconnecting(id, connected, ondone);
</script>

<Panel open title={connected ? `Disconnect ${name}` : `Erase what is kept of ${name}`} {onclose}>
  <form
    class="form"
    onsubmit={(event) => {
      event.preventDefault();
      void it.act.run();
    }}
  >
    {#if connected}
      <fieldset>
        <legend>Its accounts, and what they held and when</legend>
        <label class="check"
          ><input
            type="radio"
            name="kept"
            checked={!it.erase}
            onchange={() => (it.erase = false)}
          /> are kept here</label
        >
        <label class="check"
          ><input type="radio" name="kept" checked={it.erase} onchange={() => (it.erase = true)} /> are
          erased here</label
        >
      </fieldset>
    {/if}
    <div>
      <b>What follows</b>
      {#if it.plan.data}
        <ul class="lines">
          {#each it.plan.data.follows as line (line)}<li>{line}</li>{/each}
        </ul>
      {/if}
      <ProblemNote problem={it.plan.problem} />
    </div>
    <label class="field"><span>Reason</span><input bind:value={it.reason} required /></label>
    {#if it.erase}
      <label class="field"
        ><span>It cannot be put back: type <b class="mono">{id}</b></span><input
          class="mono"
          bind:value={it.typed}
          required
        /></label
      >
    {/if}
    <ProblemNote problem={it.act.problem} />
    <p class="acts">
      <button class="button cut" disabled={!it.ready}
        >{connected ? 'Disconnect it' : 'Erase it'}</button
      >
      <button type="button" class="button" onclick={onclose}>Keep it</button>
    </p>
  </form>
</Panel>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';

  let { row, onclose }: { row: Schemas['ApplicationRow']; onclose: () => void } = $props();
  const KEEP: Record<string, string> = { once: 'when made', in_step: 'in step' };
  const OUTSIDE: Record<string, string> = {
    put_back: 'put back',
    take_over: 'taken over',
    ask: 'asked'
  };
  const takes = (a: Schemas['AttributeRow']) =>
    [a.longest ? `${a.longest} characters` : '', a.values.join(', ')].filter(Boolean).join('; ');
</script>

<Panel open title="Attributes in {row.name}" wide {onclose}>
  <p class="soft">
    What each attribute of an account is made of, under <code>accounts</code> in the rules. What is kept
    in step follows the person’s data; a change made there is put back, taken over, or asked about.
  </p>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="scroll" role="region" aria-label="Attributes" tabindex="0">
    <table class="list">
      <thead>
        <tr><th>Attribute</th><th>Made of</th><th>Kept</th><th>Changed there</th><th>Takes</th></tr>
      </thead>
      <tbody>
        {#each row.attributes as one (one.name)}
          <tr>
            <td class="name mono">{one.name}</td>
            {#if one.of}
              <td class="mono">{one.of}</td>
              <td>{KEEP[one.keep] ?? one.keep}</td>
              <td>{one.keep === 'in_step' ? (OUTSIDE[one.outside] ?? one.outside) : '–'}</td>
            {:else}
              <td class="soft" colspan="3">left alone</td>
            {/if}
            <td>{takes(one)}</td>
          </tr>
        {:else}
          <tr><td colspan="5">Its accounts have none that can be set.</td></tr>
        {/each}
      </tbody>
    </table>
  </div>
  <div class="buttons"><button class="button plain" onclick={onclose}>Close</button></div>
</Panel>

<style>
  .buttons {
    justify-content: flex-end;
  }
  .scroll {
    max-height: 56vh;
    overflow-y: auto;
  }
</style>

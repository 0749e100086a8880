<script lang="ts">
  import Confirm from '../../lib/components/Confirm.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { session } from '../../lib/session.svelte';
  import { Sharing, type Shared } from './sharing.svelte';
  import SharedKnown from './SharedKnown.svelte';

  interface Props {
    /** None: a new one. */
    row?: Shared | null;
    onclose: () => void;
  }
  let { row = null, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  const it = new Sharing(row);
</script>

<Panel open title={row?.name ?? 'New shared credential'} wide {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void it.store(onclose);
    }}
  >
    <div class="two">
      <label class="field"
        ><span>Name</span><input maxlength="200" required bind:value={it.said.name} /></label
      >
      <label class="field"
        ><span>Where it opens something</span><input
          maxlength="300"
          bind:value={it.said.place}
        /></label
      >
      {#if !row}
        <label class="field"
          ><span>Short name in commands</span><input
            class="mono"
            required
            bind:value={it.said.id}
          /></label
        >
      {/if}
      <PickPerson
        label={row?.owner_name ? `Who changes it, now ${row.owner_name}` : 'Who changes it'}
        bind:value={it.said.owner}
      />
    </div>
    {#if row}<SharedKnown {it} />{/if}
    <ProblemNote problem={it.problem} />
    {#if session.mayAct}
      <div class="buttons">
        {#if row}
          <Confirm
            text="Drop …"
            label="Drop {row.name} …"
            sure="Drop it: it is not shared any more"
            busy={it.busy}
            cut
            ondo={() => void it.drop(onclose)}
          />
          <button class="button" type="button" disabled={it.busy} onclick={() => void it.changed()}
            >It is changed</button
          >
        {/if}
        <button class="button plain" type="button" onclick={onclose}>Close</button>
        <button class="button do" disabled={it.busy}>Store</button>
      </div>
    {/if}
  </form>
</Panel>

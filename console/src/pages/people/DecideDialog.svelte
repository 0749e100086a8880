<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import PickApplication from '../../lib/components/pick/PickApplication.svelte';
  import PickKnown from '../../lib/components/pick/PickKnown.svelte';
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ReasonField from '../../lib/components/ReasonField.svelte';
  import { Roles } from '../../lib/pick.svelte';
  import { Deciding, KINDS } from './deciding.svelte';
  import DecideThing from './DecideThing.svelte';

  /** An exception, a role, a suspension somewhere, a successor or a hold, with why and until when. */
  interface Props {
    view: Schemas['PersonView'];
    onclose: () => void;
    ondone: (follows: boolean) => void;
  }
  let { view, onclose, ondone }: Props = $props();
  // svelte-ignore state_referenced_locally
  const it = new Deciding(view.id);
  const roles = new Roles();
</script>

<Panel open title="Decide about {view.display_name}" wide {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void it.decide(ondone);
    }}
  >
    <label class="field"
      ><span>What is decided: {view.display_name} …</span><select bind:value={it.kind}>
        {#each Object.entries(KINDS) as [kind, said] (kind)}
          <option value={kind}>{said}</option>
        {/each}
      </select></label
    >
    {#if it.kind === 'role'}
      <PickKnown label="Role" known={roles} bind:value={it.role} />
    {:else if it.kind === 'successor'}
      <PickPerson label="Who takes over" bind:value={it.person} />
    {:else if it.kind === 'suspend'}
      <PickApplication label="Application" bind:value={it.application} />
    {:else if it.isException}
      <DecideThing {it} />
    {/if}
    <PickMoment label="Until (for good if left out)" bind:value={it.ends} who={view.id} />
    <ReasonField bind:value={it.reason} required />
    <ProblemNote problem={it.problem} />
    {#if it.problem?.place === 'payload.item'}
      <label class="check"
        ><input type="checkbox" bind:checked={it.isNew} /> It is right: nobody holds it there yet and
        no role gives it</label
      >
    {/if}
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={it.busy}
        >{it.follows ? 'Decide, and show what follows' : 'Decide'}</button
      >
    </div>
  </form>
</Panel>

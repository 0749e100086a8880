<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { href } from '../../lib/router.svelte';
  import { Operating } from './operating.svelte';
  import { ROLES } from './roles';

  /** One operator: the role, a link to sign in with, and whether they work with Yugum at all. */
  let { row, onclose }: { row: Schemas['OperatorRow']; onclose: () => void } = $props();
  const it = new Operating(() => row);
</script>

<Panel open title="{row.name}, {row.login}" {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void it.become({ role: it.role });
    }}
  >
    <p>
      {row.active ? 'Works with Yugum' : 'Is disabled: no session, token or link is left'}.
      {#if row.person_id}
        <a class="within" href={href({ page: 'person', who: row.person_id })}>Who it is</a>
      {/if}
    </p>
    <label class="field"
      ><span>Role</span><select bind:value={it.role} disabled={!row.active}>
        {#each ROLES as one (one)}<option>{one}</option>{/each}
      </select></label
    >
    {#if it.link}
      <p class="sheet mono link">{it.link}</p>
      <p class="soft">Hand it over in person. It works once; an earlier one has ended.</p>
    {/if}
    <ProblemNote problem={it.problem} />
    <div class="buttons">
      {#if row.active}
        <Confirm
          text="Disable …"
          label="Disable {row.login} …"
          sure="Disable: sessions and tokens end"
          busy={it.busy}
          cut
          ondo={() => void it.become({ active: false })}
        />
        <button class="button" type="button" disabled={it.busy} onclick={() => void it.letIn()}
          >Sign-in link</button
        >
      {:else}
        <button class="button" type="button" onclick={() => void it.become({ active: true })}
          >Enable</button
        >
      {/if}
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={it.busy || it.role === row.role}>Change the role</button>
    </div>
  </form>
</Panel>

<style>
  .link {
    overflow-wrap: anywhere;
  }
</style>

<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import PlanPanel from '../../lib/components/PlanPanel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { PeopleFile } from './file.svelte';
  import FileColumns from './FileColumns.svelte';
  import FileFaults from './FileFaults.svelte';
  import FilePick from './FilePick.svelte';
  import FileRead from './FileRead.svelte';
  import { people } from './plans.svelte';

  let { onclose }: { onclose: () => void } = $props();
  const file = new PeopleFile();
  const view = $derived(file.view);
  let planning = $state(false);

  function planned(confirmed: boolean): void {
    planning = false;
    if (confirmed) onclose();
    else void file.look();
  }
  const fresh = $derived(
    Object.entries(view?.fresh ?? {}).map(([field, values]) => ({
      field,
      text: values.slice(0, 12).join(', ') + (values.length > 12 ? ' …' : '')
    }))
  );
</script>

{#if view && planning}
  <PlanPanel
    wish={{ verb: 'leaver', file: view.id }}
    who="{people(file.good)} from {view.name}"
    onclose={planned}
  />
{/if}
<Panel open={!planning} title="From a file" wide {onclose}>
  <FilePick
    bind:kind={file.kind}
    onpick={(picked) => void file.pick(picked)}
    another={view !== null}
  />
  <ProblemNote problem={file.problem} />
  {#if view}
    <FileRead {file} {view} onplan={() => (planning = true)} />
    {#each fresh as one (one.field)}
      <p class="small">New in {one.field.replace('_', ' ')}: {one.text}</p>
    {/each}
    {#if !view.taken}<FileColumns {file} {view} />{/if}
    {#if file.faulty.length}<FileFaults {file} {view} />{/if}
  {/if}
</Panel>

<script lang="ts">
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { applications } from '../../lib/query.svelte';
  import type { Wish } from '../../lib/plan.svelte';

  interface Props {
    group: Schemas['GroupRow'] | null;
    onclose: () => void;
    onwish: (name: string, wish: Wish) => void;
  }
  let { group, onclose, onwish }: Props = $props();
  const asked = applications();
  // svelte-ignore state_referenced_locally
  const before = {
    name: group?.name ?? '',
    owner: '',
    address: group?.address ?? '',
    outside_senders: group?.outside_senders ?? '',
    description: group?.description ?? ''
  };
  const said = $state({ ...before });
  // svelte-ignore state_referenced_locally
  let application = $state(group?.application_id ?? '');
  const some = $derived((asked.data ?? []).filter((a) => a.capabilities.includes('groups')));
  const fields = $derived(some.find((a) => a.id === application)?.group_fields ?? []);

  function submit(event: SubmitEvent): void {
    event.preventDefault();
    const names = ['owner', 'address', 'outside_senders', 'description'] as const;
    const values: Record<string, string> = {};
    for (const name of names)
      if (fields.includes(name) && said[name] !== before[name]) values[name] = said[name];
    if (group && said.name !== group.name) values.name = said.name;
    const named = group?.name ?? said.name;
    onwish(named, { verb: 'group', application, group: named, values, new: !group });
  }
</script>

<Panel open title={group ? `Change ${group.name}` : 'New group'} {onclose}>
  <form onsubmit={submit}>
    <label class="field"
      ><span>Application</span><select bind:value={application} required disabled={!!group}>
        {#each some as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
      </select></label
    >
    <label class="field"
      ><span>Name</span><input bind:value={said.name} required maxlength="120" /></label
    >
    {#if fields.includes('owner')}
      <PickPerson
        label="Owner{group?.owner_name ? ` (${group.owner_name} if left out)` : ''}"
        bind:value={said.owner}
      />
    {/if}
    {#if fields.includes('address')}
      <label class="field"><span>Address</span><input bind:value={said.address} /></label>
    {/if}
    {#if fields.includes('outside_senders')}
      <label class="field"
        ><span>May outsiders write to it?</span><select bind:value={said.outside_senders}>
          <option value="no">no</option><option value="yes">yes</option>
        </select></label
      >
    {/if}
    {#if fields.includes('description')}
      <label class="field"><span>What it is for</span><input bind:value={said.description} /></label
      >
    {/if}
    <ProblemNote problem={asked.problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do">Show the plan</button>
    </div>
  </form>
</Panel>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { FIELDS } from '../../lib/words';
  import type { PeopleFile } from './file.svelte';

  /** What each column is taken for; another choice has the file checked once more. */
  let { file, view }: { file: PeopleFile; view: Schemas['PeopleFileView'] } = $props();
  const columns = $derived(view.columns);
  /** What a file may say of somebody: when access ends is said by a leaver's plan. */
  const PEOPLE = Object.entries({
    ...FIELDS,
    manager: FIELDS.manager_id ?? '',
    birthday: 'Birthday',
    another: 'Another person'
  }).filter(([name]) => !['manager_id', 'access_ends', 'last_working_day'].includes(name));
  const LEAVERS = Object.entries({
    user_name: FIELDS.user_name,
    employee_number: FIELDS.employee_number,
    display_name: FIELDS.display_name,
    at: FIELDS.access_ends,
    since: 'Left on',
    last_day: FIELDS.last_working_day,
    contract_ends: FIELDS.contract_ends,
    successor: 'Successor',
    reason: 'Reason',
    reference: 'Reference'
  });
  const choices = $derived(view.kind === 'leavers' ? LEAVERS : PEOPLE);
  const named = $derived(columns.filter((c) => !c.secret));
  const struck = $derived(columns.filter((c) => c.secret).map((c) => c.name));
</script>

<details open={named.some((c) => !c.field)}>
  <summary
    >Columns: {named.filter((c) => c.field).length} read, {named.filter((c) => !c.field).length} left
    out</summary
  >
  <div class="columns">
    {#each named as column (column.name)}
      <label class="field"
        ><span>{column.name}</span>
        <select
          value={column.field}
          disabled={file.busy}
          onchange={(event) => void file.column(column.name, event.currentTarget.value)}
        >
          <option value="">is left out</option>
          {#each choices as [name, text] (name)}<option value={name}>{text}</option>{/each}
          {#if column.field.startsWith('own.')}<option value={column.field}
              >{column.field.slice(4)}</option
            >{/if}
        </select></label
      >
    {/each}
  </div>
</details>
{#if struck.length}
  <p class="small">
    What stands under {struck.join(', ')} was struck: it is neither read nor kept.
  </p>
{/if}
{#if named.some((c) => c.field === 'birthday')}
  <p class="small">Of a birthday only a digest is kept, by which people are told apart.</p>
{/if}

<style>
  details {
    margin: 8px 0;
  }
  .columns {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
    gap: 8px 12px;
  }
</style>

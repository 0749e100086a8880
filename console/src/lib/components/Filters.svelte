<script lang="ts">
  import { api, got } from '../api';
  import { chips, type Field } from '../filters';
  import Later from './Later.svelte';
  import type { Query } from '../router.svelte';

  interface Props {
    fields: Field[];
    query: Query;
    onask: (change: Record<string, string>) => void;
  }
  let { fields, query, onask }: Props = $props();
  const PICKED = {
    person: () => import('./pick/PickPerson.svelte'),
    application: () => import('./pick/PickApplication.svelte')
  };
  let adding = $state('');
  let value = $state('');
  const shown = $derived(chips(fields, query));
  const free = $derived(fields.filter((f) => !query[f.name]));
  const field = $derived(fields.find((f) => f.name === adding));

  /** Whoever is picked is the filter. */
  function take(login: string): void {
    if (login) onask({ [adding]: login });
    adding = value = '';
  }

  /** A day is the moment at which it begins for the organisation, as the service reads it. */
  async function begins(said: string): Promise<string> {
    const query = { said, day_begins: true };
    return (await got(api.GET('/api/v1/clock/moment', { params: { query } }))).at;
  }

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const [asked, said] = [field, value.trim()];
    adding = value = '';
    if (asked && said) onask({ [asked.name]: asked.day ? await begins(said) : said });
  }
</script>

<form class="filters" onsubmit={add} aria-label="Filters">
  {#each shown as chip (chip.name)}
    <span class="chip">
      {chip.label}: <b>{chip.value}</b>
      <button
        type="button"
        class="bare"
        aria-label="Take away: {chip.label}"
        onclick={() => onask({ [chip.name]: '' })}>×</button
      >
    </span>
  {/each}
  {#if free.length}
    <select bind:value={adding} aria-label="Filter by" onchange={() => (value = '')}>
      <option value="">Filter by …</option>
      {#each free as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
    </select>
  {/if}
  {#if field?.options}
    <select
      bind:value
      aria-label={field.label}
      onchange={(e) => e.currentTarget.form?.requestSubmit()}
    >
      <option value="">Which?</option>
      {#each field.options as option (option)}<option value={option}
          >{field.words?.[option] ?? option}</option
        >{/each}
    </select>
  {:else if field?.pick === 'person' || field?.pick === 'application'}
    <Later load={PICKED[field.pick]} label={field.label} value="" onpick={take} />
  {:else if field?.pick}
    <Later
      load={() => import('./pick/PickValue.svelte')}
      label={field.label}
      field={field.pick}
      {value}
      onpick={(said: string) => (value = said)}
    />
    <button class="button slim">Add</button>
  {:else if field?.day}
    <input type="date" bind:value aria-label={field.label} required />
    <button class="button slim">Add</button>
  {:else if field}
    <input bind:value aria-label={field.label} placeholder={field.hint} required />
    <button class="button slim">Add</button>
  {/if}
</form>

<style>
  .filters {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
    margin: 0 0 12px;
  }
  .chip {
    background: var(--color-surface-200-800);
    border-radius: 3px;
    padding: 3px 4px 3px 9px;
  }
  .chip button {
    padding: 0 6px;
  }
  select {
    width: auto;
  }
  .filters :global(:is(input, .yg-pick)) {
    width: 320px;
    max-width: 100%;
  }
</style>

<script lang="ts">
  import type { Filtering } from '../filtering.svelte';
  import Later from './Later.svelte';

  /** Where the value of a filter is picked or typed. */
  let { it }: { it: Filtering } = $props();
  const PICKED = {
    person: () => import('./pick/PickPerson.svelte'),
    application: () => import('./pick/PickApplication.svelte')
  };
  const field = $derived(it.field);
</script>

{#if field?.options}
  <select
    bind:value={it.value}
    aria-label={field.label}
    onchange={(e) => e.currentTarget.form?.requestSubmit()}
  >
    <option value="">Which?</option>
    {#each field.options as option (option)}<option value={option}
        >{field.words?.[option] ?? option}</option
      >{/each}
  </select>
{:else if field?.pick === 'person' || field?.pick === 'application'}
  <Later
    load={PICKED[field.pick]}
    label={field.label}
    value=""
    onpick={(said: string) => it.take(said)}
  />
{:else if field?.pick}
  <Later
    load={() => import('./pick/PickValue.svelte')}
    label={field.label}
    field={field.pick}
    value={it.value}
    onpick={(said: string) => (it.value = said)}
  />
  <button class="button slim">Add</button>
{:else if field?.day}
  <input type="date" bind:value={it.value} aria-label={field.label} required />
  <button class="button slim" disabled={it.busy}>Add</button>
{:else if field}
  <input bind:value={it.value} aria-label={field.label} placeholder={field.hint} required />
  <button class="button slim">Add</button>
{/if}

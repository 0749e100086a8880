<script lang="ts">
  import type { Planning } from '../plan.svelte';
  import { fieldName } from '../words';
  import PickMoment from './pick/PickMoment.svelte';
  import PickValue from './pick/PickValue.svelte';

  let { plan }: { plan: Planning } = $props();
  const KNOWN = ['department', 'site'] as const;
  const FIRST = ['title', 'cost_center'];
  const MORE = [
    'phone',
    'mobile',
    'division',
    'organization',
    'user_type',
    'preferred_language',
    'nick_name'
  ];
</script>

<div class="half">
  {#each KNOWN as name (name)}
    <PickValue
      label={fieldName(name)}
      field={name}
      bind:value={() => plan.moved[name] ?? '', (v) => (plan.moved[name] = v)}
    />
  {/each}
  {#each FIRST as name (name)}
    <label class="field"
      ><span>{fieldName(name)}</span><input bind:value={plan.moved[name]} /></label
    >
  {/each}
</div>
<details>
  <summary>Further fields (a dash takes a value away)</summary>
  <div class="half">
    {#each MORE as name (name)}
      <label class="field"
        ><span>{fieldName(name)}</span><input bind:value={plan.moved[name]} /></label
      >
    {/each}
  </div>
</details>
<div class="half">
  <label class="field"
    ><span>Days of both roles</span><input
      inputmode="numeric"
      pattern="[0-9]*"
      bind:value={plan.overlap}
    /></label
  >
  <PickMoment label="Came true (if that is past)" bind:value={plan.since} />
</div>

<style>
  .half {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
    gap: 0 12px;
  }
</style>

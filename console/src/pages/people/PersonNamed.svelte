<script lang="ts">
  import Later from '../../lib/components/Later.svelte';

  /** Where somebody is named without owning it; the applications are asked once it is opened. */
  let { who, left }: { who: string; left: boolean } = $props();
  let opened = $state(false);
</script>

<section aria-labelledby="named">
  <h2 id="named">Where they are named</h2>
  <details ontoggle={(event) => (opened ||= event.currentTarget.open)}>
    <summary>Look where they are named …</summary>
    {#if opened}<Later load={() => import('./NamedTable.svelte')} {who} {left} />{/if}
  </details>
</section>

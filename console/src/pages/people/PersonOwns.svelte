<script lang="ts">
  import Later from '../../lib/components/Later.svelte';

  /** What somebody owns; the applications are asked once it is opened. */
  let { who, login }: { who: string; login: string } = $props();
  let opened = $state(false);
  let asked = $state(false);
</script>

<section aria-labelledby="owns">
  <h2 id="owns">What they own</h2>
  <details ontoggle={(event) => (opened ||= event.currentTarget.open)}>
    <summary>Look in the applications …</summary>
    {#if opened}<Later load={() => import('./OwnsTable.svelte')} {who} {login} />{/if}
  </details>
  <details ontoggle={(event) => (asked ||= event.currentTarget.open)}>
    <summary>Who has now what they had …</summary>
    {#if asked}<Later load={() => import('./Given.svelte')} {who} />{/if}
  </details>
</section>

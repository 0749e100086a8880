<script lang="ts" generics="P extends object">
  import type { Component } from 'svelte';

  /** A part whose code is loaded when it is shown. */
  let { load, ...rest }: { load: () => Promise<{ default: Component<P> }> } & P = $props();
</script>

{#await load() then { default: Part }}
  <Part {...rest as unknown as P} />
{:catch}
  <p class="sheet bad" role="alert">
    This did not load: the service does not answer, or has been updated. <a
      href={location.href}
      target="_self">Load the page again</a
    >
  </p>
{/await}

<script lang="ts" generics="P extends object">
  import type { Component } from 'svelte';

  /** A dialog whose code is loaded when it is opened. */
  let { load, ...rest }: { load: () => Promise<{ default: Component<P> }> } & P = $props();
</script>

{#await load() then { default: Part }}
  <Part {...rest as unknown as P} />
{/await}

<script lang="ts">
  import { exactly, momentOf } from '../format';
  import { times } from '../times.svelte';

  const { at, zone, said }: { at: string; zone: string; said?: string } = $props();
  const exact = $derived(exactly(at, zone));
</script>

<!-- In full also for who has no pointer to rest on it: read out, and shown for all pages at once. -->
<time datetime={at} title={exact}
  >{#if !times.exact}{said ?? momentOf(at, zone)}<span class="visually-hidden">: {exact}</span
    >{:else}{said ? `${said}, ` : ''}{exact}{/if}</time
>

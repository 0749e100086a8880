<script lang="ts">
  import Missing from './lib/components/Missing.svelte';
  import Shell from './lib/components/Shell.svelte';
  import { PAGES } from './lib/pages';
  import { forget } from './lib/query.svelte';
  import { router } from './lib/router.svelte';
  import { session } from './lib/session.svelte';

  void session.ask();
  $effect(() => {
    if (!session.view) forget();
  });
</script>

{#if router.shown?.bare}
  <router.shown.Page />
{:else if !session.asked}
  <p class="visually-hidden" role="status">Loading</p>
{:else if !session.view}
  {#await PAGES.welcome.load() then { default: SignIn }}
    <SignIn />
  {:catch}
    <Missing />
  {/await}
{:else}
  <Shell>
    {#key router.shown?.key}
      {#if router.shown}
        <router.shown.Page {...router.shown.view} />
      {/if}
    {/key}
  </Shell>
{/if}

<script lang="ts">
  import type { Snippet } from 'svelte';
  import { goesOn } from '../clock.svelte';
  import { keys } from '../keys.svelte';
  import { labelled } from '../labels';
  import { elsewhere, lookOut } from '../elsewhere.svelte';
  import { events } from '../events';
  import { session } from '../session.svelte';
  import Later from './Later.svelte';
  import Nav from './Nav.svelte';
  import TopBar from './TopBar.svelte';

  let { children }: { children: Snippet } = $props();

  goesOn();
  events.start();
  if (session.mayAct) lookOut();
</script>

<svelte:window onkeydown={(event) => keys.handle(event)} />
<a class="skip" href="#content">Skip to the page</a>
<div class="shell">
  <Nav />
  <div>
    <TopBar />
    <main id="content" tabindex="-1" use:labelled>{@render children()}</main>
  </div>
</div>
{#if elsewhere.begun}
  <Later load={() => import('./Toasts.svelte')} news={elsewhere.news} />
{/if}
{#if keys.help}
  <Later load={() => import('./Help.svelte')} />
{/if}

<style>
  .shell {
    display: grid;
    grid-template-columns: 184px minmax(0, 1fr);
    min-height: 100vh;
  }
  main {
    padding: 20px 28px 60px;
    max-width: 1500px;
    outline: none;
  }
  .skip {
    position: absolute;
    left: -999px;
  }
  .skip:focus {
    left: 8px;
    top: 8px;
    background: var(--color-surface-100-900);
    padding: 6px 10px;
    z-index: 10;
  }
  @media (max-width: 800px) {
    .shell {
      grid-template-columns: minmax(0, 1fr);
      align-content: start;
    }
    main {
      padding: 16px 14px 40px;
    }
  }
</style>

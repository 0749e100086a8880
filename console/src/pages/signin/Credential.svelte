<script lang="ts">
  import Mark from '../../lib/components/Mark.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import OpenedCredential from './OpenedCredential.svelte';
  import { Opening } from './opening.svelte';
  import OwnPassword from './OwnPassword.svelte';

  const it = new Opening();
</script>

<main>
  <Mark />
  <h1>Your initial credential</h1>
  <ProblemNote problem={it.problem} />
  {#if it.opened}
    <OpenedCredential opened={it.opened} />
  {:else if it.chosen}
    <p role="status">
      The password of {it.chosen.login} in {it.chosen.application} is being set (docket {it.chosen
        .docket}). Sign in there in a minute.
    </p>
  {:else if it.choosing?.place}
    <p>Behind the link is the key with which {it.choosing.place} runs; nobody chooses it.</p>
    <button class="button do" onclick={() => void it.open()}>Show it</button>
  {:else if it.choosing}
    <OwnPassword
      rules={it.choosing}
      bind:password={it.password}
      onchoose={() => void it.choose()}
    />
  {:else if !it.problem}
    <p>
      It is shown once. Open it when you are ready to use it and nobody looks over your shoulder.
    </p>
    <span class="both">
      <button class="button do" onclick={() => void it.open()} disabled={!it.token}>Show it</button>
      <button class="button" onclick={() => void it.own()} disabled={!it.token}
        >Choose one of my own</button
      >
    </span>
  {/if}
</main>

<style>
  main {
    width: min(440px, calc(100vw - 32px));
    margin: 14vh auto 0;
    display: grid;
    gap: 14px;
    justify-items: start;
  }
  .both {
    display: flex;
    gap: 8px;
  }
</style>

<script lang="ts">
  import { session } from '../../lib/session.svelte';
  import type { Step } from './steps';

  interface Props {
    step: Step;
    at: number;
    /** Whether it is the one to do now. */
    next: boolean;
    onopen: () => void;
  }
  let { step, at, next, onopen }: Props = $props();
</script>

<li aria-current={next ? 'step' : undefined} class:done={step.done}>
  <span class="at" aria-hidden="true">{step.done ? '✓' : at + 1}</span>
  <b>{step.name}</b>
  <span class:soft={step.done}>{step.done ? step.is : step.todo}</span>
  {#if step.done}{:else if step.goes}
    <a class="button" class:do={next} href={step.goes}>{step.act}</a>
  {:else}
    <button
      class="button"
      class:do={next}
      disabled={step.opens === 'application' && !session.mayAdminister}
      onclick={onopen}>{step.act}</button
    >
  {/if}
</li>

<style>
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-surface-200-800);
  }
  li > b {
    min-width: 9em;
  }
  li > .button {
    margin-left: auto;
  }
  .at {
    display: grid;
    place-items: center;
    width: 26px;
    height: 26px;
    border: 1.5px solid currentcolor;
    border-radius: 50%;
  }
  .done .at {
    color: var(--color-success-700-300);
  }
</style>

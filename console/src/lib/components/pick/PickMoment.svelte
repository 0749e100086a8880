<script lang="ts">
  import { Moment } from '../../pick.svelte';
  import Later from '../Later.svelte';

  interface Props {
    label: string;
    /** As it was said: words, or a date. */
    value: string;
    /** In whose zone it is meant. */
    who?: string;
    /** Whether a day alone is its beginning. */
    begins?: boolean;
    required?: boolean;
  }
  let { label, value = $bindable(), who = '', begins = false, required = false }: Props = $props();
  const id = $props.id();
  const moment = new Moment(() => ({ said: value, who, begins }));
  let open = $state(false);
  let button: HTMLButtonElement;
</script>

<div class="field">
  <label for={id}><span>{label}</span></label>
  <div class="row">
    <input
      {id}
      bind:value
      {required}
      placeholder="Fri 17:00, 2031-03-07, +12d"
      aria-describedby="{id}-read"
      aria-invalid={moment.problem ? 'true' : undefined}
    />
    <button
      type="button"
      class="button slim"
      bind:this={button}
      aria-expanded={open}
      onclick={() => (open = !open)}>Calendar</button
    >
  </div>
  <output id="{id}-read" class="small" class:wrong={moment.problem}>{moment.read}</output>
  {#if open}
    <Later
      load={() => import('./Days.svelte')}
      day={moment.day}
      {label}
      onpick={(day) => {
        value = moment.on(day);
        open = false;
        button.focus();
      }}
      onclose={() => {
        open = false;
        button.focus();
      }}
    />
  {/if}
</div>

<style>
  .row {
    display: flex;
    gap: 6px;
  }
  output {
    min-height: 17px;
    color: var(--color-surface-600-400);
  }
  .wrong {
    color: var(--color-secondary-600-400);
  }
</style>

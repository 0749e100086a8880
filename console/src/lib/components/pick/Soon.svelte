<script lang="ts" generics="T">
  import { tick, type Component, type ComponentProps } from 'svelte';
  import type Combo from './Combo.svelte';

  type Props = ComponentProps<typeof Combo<T>>;
  /** A plain field until somebody goes there; then a list to pick from. What was typed stays typed. */
  let props: Props = $props();
  const id = $props.id();
  let Part = $state.raw<Component<Props> | null>(null);
  let root: HTMLElement;

  async function wake(): Promise<void> {
    try {
      const { default: loaded } = await import('./Combo.svelte');
      const here = root.contains(document.activeElement);
      Part = loaded as unknown as Component<Props>;
      await tick();
      if (here) root.querySelector('input')?.focus();
    } catch {
      // The service takes what is typed as well; it says so where it is nobody.
    }
  }
</script>

<div bind:this={root}>
  {#if Part}
    <Part {...props} />
  {:else}
    <div class="field">
      <label for={id}><span>{props.label}</span></label>
      <input
        {id}
        value={props.shown}
        placeholder={props.hint}
        autocomplete="off"
        onfocus={wake}
        oninput={(event) => props.ask(event.currentTarget.value)}
        onchange={(event) => props.onpick(event.currentTarget.value)}
      />
    </div>
  {/if}
</div>

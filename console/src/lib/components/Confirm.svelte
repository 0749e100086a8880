<script lang="ts">
  /** A button that asks once more in its own place. */
  interface Props {
    text: string;
    label: string;
    sure: string;
    keep?: string;
    busy: boolean;
    cut?: boolean;
    slim?: boolean;
    ondo: () => void;
  }
  let {
    text,
    label,
    sure,
    keep = 'Keep it',
    busy,
    cut = false,
    slim = false,
    ondo
  }: Props = $props();
  let asked = $state(false);
</script>

{#if asked}
  <button
    class={['button', cut ? 'cut' : 'do', slim && 'slim']}
    disabled={busy}
    onclick={() => {
      asked = false;
      ondo();
    }}>{sure}</button
  >
  <button class={['button', slim && 'slim']} onclick={() => (asked = false)}>{keep}</button>
{:else}
  <button
    class={['button', slim && 'slim']}
    aria-label={label}
    disabled={busy}
    onclick={() => (asked = true)}>{text}</button
  >
{/if}

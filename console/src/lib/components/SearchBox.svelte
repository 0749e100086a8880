<script lang="ts">
  /** A list searched by a text. */
  interface Props {
    label: string;
    hint: string;
    asked: string;
    onask: (text: string) => void;
  }
  let { label, hint, asked, onask }: Props = $props();
  let text = $derived(asked);

  function search(event: SubmitEvent): void {
    event.preventDefault();
    onask(text.trim());
  }
</script>

<form class="search" role="search" aria-label={label} onsubmit={search}>
  <input aria-label={hint} bind:value={text} placeholder={hint} />
  <button class="button">Search</button>
</form>

<style>
  form {
    display: flex;
    gap: 8px;
    max-width: 460px;
    margin-bottom: 14px;
  }
</style>

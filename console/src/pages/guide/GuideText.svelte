<script lang="ts">
  /** A page of the guide: the service's own files, in which no HTML is taken over from anywhere. */
  let { html }: { html: string } = $props();
</script>

<article class="text">
  <!-- eslint-disable-next-line svelte/no-at-html-tags -- made by the service of its own files -->
  {@html html}
</article>

<style>
  .text {
    max-width: 78ch;
    line-height: 1.5;
  }
  .text :global(h2) {
    margin-top: 28px;
    font-size: 19px;
  }
  .text :global(:is(h2, h3)) {
    scroll-margin-top: 12px;
  }
  .text :global(:is(p, ul, ol, pre, table)) {
    margin: 10px 0;
  }
  .text :global(:is(ul, ol)) {
    padding-left: 20px;
    list-style: disc;
  }
  .text :global(li) {
    margin: 5px 0;
  }
  .text :global(a) {
    text-decoration: underline;
  }
  .text :global(:is(code, pre)) {
    font-family: var(--font-mono);
    font-size: 13px;
  }
  .text :global(code) {
    overflow-wrap: anywhere;
    background: none;
    padding: 0;
    color: inherit;
  }
  .text :global(:not(pre) > code) {
    background: var(--color-surface-100-900);
    padding: 1px 4px;
    white-space: normal;
  }
  .text :global(pre) {
    background: var(--color-surface-100-900);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    padding: 10px 12px;
    white-space: pre-wrap;
  }
  .text :global(:is(th, td)) {
    border-bottom: 1px solid var(--color-surface-300-700);
    padding: 5px 12px 5px 0;
    text-align: left;
    vertical-align: top;
  }
</style>

<script lang="ts">
  import { onMount } from 'svelte';
  import { api, got } from '../../lib/api';
  import type { Candidate } from '../../lib/rules.svelte';

  let {
    candidate,
    onfocusline
  }: { candidate: Candidate; onfocusline: (go: (line: number) => void) => void } = $props();
  let host: HTMLElement | null = null;

  onMount(() => {
    let close = (): void => undefined;
    void (async () => {
      const [{ edit }, schema, applications] = await Promise.all([
        import('../../lib/editor'),
        got(api.GET('/api/v1/rules/schema')),
        got(api.GET('/api/v1/applications'))
      ]);
      if (!host) return; // the page was left meanwhile
      const names = applications.map((a) => a.id);
      const dark = document.documentElement.dataset.mode === 'dark';
      const view = edit(
        host,
        candidate.text,
        schema as Record<string, unknown>,
        names,
        (text) => candidate.check(text),
        (text) => (candidate.text = text),
        dark
      );
      onfocusline((line) => {
        const found = view.state.doc.line(Math.min(line, view.state.doc.lines));
        view.dispatch({ selection: { anchor: found.from }, scrollIntoView: true });
        view.focus();
      });
      close = () => view.destroy();
    })();
    return () => close();
  });
</script>

<div class="editor" bind:this={host}></div>

<style>
  .editor {
    height: min(62vh, 640px);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    overflow: hidden;
  }
</style>

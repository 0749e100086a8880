<script lang="ts">
  import type { Credential } from './credential.svelte';

  /** The link, to another address than the usual one, and the mail it stands in. */
  let { it }: { it: Credential } = $props();
</script>

<p>For who can be reached nowhere else just now. The link before stops working.</p>
<label class="field"
  ><span>Address, this once</span><input
    oninput={() => (it.mail = null)}
    bind:value={it.to}
  /></label
>
<label class="field"
  ><span>How you made sure who it is, for the record</span><input bind:value={it.check} /></label
>
{#if it.mail}<pre aria-label="The mail">{it.mail.subject}

{it.mail.text}</pre>{/if}

<style>
  pre {
    white-space: pre-wrap;
    border-left: 3px solid var(--color-surface-300-700);
    padding-left: 10px;
    font-size: 13px;
  }
</style>

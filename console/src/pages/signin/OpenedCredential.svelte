<script lang="ts">
  import type { Schemas } from '../../lib/api';

  /** The credential, this once. */
  let { opened }: { opened: Schemas['OpenedCredential'] } = $props();
</script>

<dl>
  <dt>Application</dt>
  <dd>{opened.application}</dd>
  <dt>Login</dt>
  <dd class="mono">{opened.login}</dd>
  {#if opened.place}<dt>For</dt>
    <dd>{opened.place}</dd>{/if}
  <dt>{opened.place ? 'Key' : 'Password'}</dt>
  <dd class="mono secret">{opened.secret}</dd>
</dl>
<p>
  This page shows it once. {opened.place
    ? 'Put it in the place of the old one now.'
    : 'Write it down or sign in now, and change it there.'}
</p>

<style>
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 4px 16px;
  }
  dt {
    color: var(--color-surface-600-400);
  }
  .secret {
    user-select: all;
  }
</style>

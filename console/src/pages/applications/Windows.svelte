<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { plural } from '../../lib/format';

  /** What becomes of a leaver's account here, and until when it can come back. */
  let { row }: { row: Schemas['ApplicationRow'] } = $props();
  const profile = $derived(row.profile);
  const closes = $derived(profile.close_after_days);
  const window = $derived(profile.deletion === 'final' ? 0 : profile.window_days);
  const WIDTH = 640;
  const LEFT = 4;
  const shut = $derived(LEFT + 40);
  const scale = $derived((WIDTH - shut - 60) / Math.max(1, closes + window));
  const deleted = $derived(shut + closes * scale);
  const gone = $derived(deleted + window * scale);
  const says = $derived(
    profile.deletion === 'final'
      ? `Suspended when somebody leaves, deleted ${plural(closes, 'day')} later, at once for good.`
      : `Suspended when somebody leaves, deleted ${plural(closes, 'day')} later, can come back for ${plural(window, 'day')} more.`
  );
</script>

<figure>
  <svg viewBox="0 0 {WIDTH} 58" role="img" aria-label={says}>
    <rect class="active" x={LEFT} y="8" width={shut - LEFT} height="14" />
    <rect class="suspended" x={shut} y="8" width={Math.max(2, deleted - shut)} height="14" />
    {#if window}<path class="deleted" d="M{deleted} 8H{gone}L{gone} 22z" />{/if}
    <path class="cross" d="M{gone + 6} 10l10 10M{gone + 16} 10l-10 10" />
    <text x={shut} y="38">cut off</text>
    {#if closes}<text x={deleted} y="38" text-anchor={window ? 'middle' : 'end'}
        >{plural(closes, 'day')}: deleted</text
      >{/if}
    {#if window}<text x={gone + 16} y="52" text-anchor="end"
        >{plural(closes + window, 'day')}: gone for good</text
      >{/if}
  </svg>
  <figcaption class="soft">{says}</figcaption>
</figure>

<style>
  figure {
    margin: 0;
  }
  svg {
    width: 100%;
    max-width: 640px;
    height: auto;
    display: block;
  }
  text {
    font-size: 12px;
    fill: var(--color-surface-contrast-50-950);
  }
  .active {
    fill: var(--color-success-600-400);
  }
  .suspended {
    fill: var(--color-surface-100-900);
    stroke: var(--color-warning-600-400);
    stroke-width: 1.4;
  }
  .deleted {
    fill: var(--color-secondary-600-400);
  }
  .cross {
    stroke: var(--color-surface-contrast-50-950);
    stroke-width: 2;
  }
</style>

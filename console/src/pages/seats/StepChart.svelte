<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { savePicture, saveTable } from '../../lib/picture';
  import { chart } from './steps';
  import StepDrawing from './StepDrawing.svelte';
  import StepLegend from './StepLegend.svelte';

  /** A step chart, and what of it can be taken along. */
  let { view, zone }: { view: Schemas['ForecastView']; zone: string } = $props();
  let wide = $state(0);
  const drawn = $derived(chart(view, Math.min(900, wide || 900)));
  const name = $derived(`${view.pool.license} ${view.today}`);
  let drawing = $state<SVGSVGElement>();
  function table(): void {
    const rows = drawn.steps.map((s) => [s.begins, s.ends, s.bought, s.taken]);
    saveTable(['begins', 'ends', 'bought', 'taken'], rows, `${name}.csv`);
  }
</script>

<div bind:clientWidth={wide}><StepDrawing {view} {zone} {drawn} bind:drawing /></div>
<StepLegend />
<p>
  <button class="button plain" onclick={() => drawing && savePicture(drawing, `${name}.png`)}
    >As PNG</button
  >
  <button class="button plain" onclick={table}>As CSV</button>
</p>

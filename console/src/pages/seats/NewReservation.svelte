<script lang="ts">
  import Later from '../../lib/components/Later.svelte';
  import type { Reserving } from './reserving.svelte';

  let { acts }: { acts: Reserving } = $props();
  const EXAMPLE = 'department eq "Bridge"';
  const pick = (): Promise<typeof import('../../lib/components/pick/PickPerson.svelte')> =>
    import('../../lib/components/pick/PickPerson.svelte');
</script>

<details>
  <summary>Set aside, or pass on …</summary>
  <form
    class="form-row"
    onsubmit={(event) => {
      event.preventDefault();
      void acts.make();
    }}
  >
    {#key acts.made}
      <Later load={pick} label="For" value="" onpick={(who: string) => (acts.said.person = who)} />
      <Later
        load={pick}
        label="The seat of, if one is passed on"
        value=""
        onpick={(who: string) => (acts.said.holder = who)}
      />
    {/key}
    <label class="field"
      ><span>Or for those of a filter</span><input
        class="mono"
        placeholder={EXAMPLE}
        bind:value={acts.said.who}
      /></label
    >
    <label class="field"
      ><span>Seats to set aside</span><input
        type="number"
        min="1"
        bind:value={acts.said.count}
      /></label
    >
    <label class="field"
      ><span>Set aside from</span><input type="date" bind:value={acts.said.begins} /></label
    >
    <label class="field"
      ><span>Last day (90 days if empty)</span><input
        type="date"
        bind:value={acts.said.ends}
      /></label
    >
    <label class="field"
      ><span>Why they are set aside</span><input
        required
        maxlength="300"
        bind:value={acts.said.reason}
      /></label
    >
    <label class="check"
      ><input type="checkbox" bind:checked={acts.said.ahead} /> Also before those who wait</label
    >
    <button class="button" disabled={acts.busy}>Set aside</button>
  </form>
</details>

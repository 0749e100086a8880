<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import HeldNow from './HeldNow.svelte';

  let { view }: { view: Schemas['PersonView'] } = $props();
</script>

<div class="two">
  <section>
    <h2>What happens next</h2>
    <table class="list">
      <tbody>
        {#each view.next as step, place (place)}
          <tr>
            <td class="name at"><Moment at={step.at} zone={session.zone} /></td>
            <td
              >{step.text}
              {#if step.docket}<a class="within" href={href({ page: 'docket', name: step.docket })}
                  >{step.docket}</a
                >{/if}</td
            >
            <td class="soft">{step.because}</td>
          </tr>
        {:else}
          <tr><td class="soft">Nothing is planned.</td></tr>
        {/each}
      </tbody>
    </table>
  </section>
  <HeldNow {view} />
</div>

<style>
  .two {
    display: grid;
    grid-template-columns: 1.25fr 1fr;
    gap: 28px;
  }
  .at {
    white-space: nowrap;
  }
  @media (max-width: 900px) {
    .two {
      grid-template-columns: 1fr;
    }
  }
</style>

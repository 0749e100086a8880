<script lang="ts">
  import StepMark from '../../lib/components/StepMark.svelte';
  import type { DocketState } from '../../lib/docket.svelte';

  let { docket }: { docket: DocketState } = $props();
</script>

<div class="scroll">
  <table class="list" aria-label="Applications by phase">
    <thead>
      <tr>
        <th>Application</th>
        {#each docket.phases as phase (phase)}<th class="phase">{phase}</th>{/each}
      </tr>
    </thead>
    <tbody>
      {#each docket.applications as application (application)}
        <tr>
          <td class="name">{application}</td>
          {#each docket.phases as phase (phase)}
            {@const cell = docket.cell(application, phase)}
            <td>
              <div class="cell">
                <StepMark state={cell.state} />
                <div>
                  {cell.text}
                  <div class="small soft">{cell.more}</div>
                </div>
              </div>
            </td>
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .phase::first-letter {
    text-transform: uppercase;
  }
  .cell {
    display: flex;
    gap: 8px;
  }
  div.scroll {
    margin-top: 18px;
  }
</style>

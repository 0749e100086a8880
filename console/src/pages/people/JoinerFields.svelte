<script lang="ts">
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import PickValue from '../../lib/components/pick/PickValue.svelte';
  import type { NewJoiner } from './joiner.svelte';

  /** Who a new person is, and what they do where. */
  let { joiner }: { joiner: NewJoiner } = $props();
  const { fields } = $derived(joiner);
</script>

<div class="two">
  <label class="field"
    ><span>Given name</span><input bind:value={fields.given_name} onblur={joiner.suggest} /></label
  >
  <label class="field"
    ><span>Family name</span><input
      bind:value={fields.family_name}
      onblur={joiner.suggest}
      required
    /></label
  >
  <label class="field"
    ><span>Login</span><input class="mono" bind:value={fields.user_name} required /></label
  >
  <label class="field"><span>Mail address</span><input bind:value={fields.mail} /></label>
</div>
{#each joiner.tried as one (one.name + one.pattern)}
  <div class="soft small">{one.name || one.pattern}: {one.problem}</div>
{/each}
<div class="three">
  <PickValue
    label="Department"
    field="department"
    bind:value={fields.department}
    onpick={joiner.look}
  />
  <label class="field"
    ><span>Title</span><input bind:value={fields.title} oninput={joiner.look} /></label
  >
  <PickValue label="Site" field="site" bind:value={fields.site} onpick={joiner.look} />
  <label class="field"
    ><span>Number</span><input class="mono" bind:value={fields.employee_number} /></label
  >
  <PickPerson label="Manager" bind:value={fields.manager} />
  <label class="field"
    ><span>Outside mail address</span><input bind:value={fields.outside_mail} /></label
  >
  <label class="field"
    ><span>Birthday, kept as a digest</span><input
      type="date"
      bind:value={fields.birthday}
    /></label
  >
  <label class="field"><span>Phone</span><input bind:value={fields.phone} /></label>
  <label class="field"><span>Mobile phone</span><input bind:value={fields.mobile} /></label>
  <label class="field"><span>Cost centre</span><input bind:value={fields.cost_center} /></label>
  <PickMoment label="First day" bind:value={fields.starts} begins />
  <PickMoment label="Contract ends (if it does)" bind:value={fields.contract_ends} />
</div>

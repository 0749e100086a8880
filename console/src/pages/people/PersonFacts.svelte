<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { fieldName } from '../../lib/words';

  let { view }: { view: Schemas['PersonView'] } = $props();
  const SHOWN = [
    'user_name',
    'mail',
    'outside_mail',
    'phone',
    'mobile',
    'cost_center',
    'division',
    'organization',
    'user_type',
    'nick_name',
    'honorific_prefix',
    'middle_name',
    'honorific_suffix',
    'preferred_language',
    'locale'
  ] as const;
  const facts = $derived([
    ...SHOWN.map((name) => [fieldName(name), view[name]] as const),
    ['Groups of the source', view.groups.join('; ')] as const,
    ...Object.entries(view.own).map(([name, value]) => [fieldName(name), value] as const)
  ]);
</script>

<dl aria-label="Who it is">
  {#each facts.filter(([, value]) => value) as [name, value] (name)}
    <div>
      <dt class="soft">{name}</dt>
      <dd>{value}</dd>
    </div>
  {/each}
</dl>

<style>
  dl {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 22px;
    margin: 0 0 14px;
  }
  dt,
  dd {
    display: inline;
    margin: 0;
  }
  dd {
    margin-left: 4px;
    overflow-wrap: anywhere;
  }
</style>

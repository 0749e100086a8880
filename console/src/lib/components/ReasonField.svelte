<script lang="ts">
  interface Props {
    value: string;
    required?: boolean;
  }
  /** Why something is done, as it is kept. */
  let { value = $bindable(), required = false }: Props = $props();
</script>

<label class="field"
  ><span>Reason, for the record</span><input maxlength="300" {required} bind:value /></label
>

<script lang="ts">
  import './days.css';
  import { parseDate, today } from '@internationalized/date';
  import { DatePicker } from '@skeletonlabs/skeleton-svelte';
  import { session } from '../../session.svelte';

  interface Props {
    label: string;
    /** The day that is meant now, as 2031-03-07. */
    day: string;
    onpick: (day: string) => void;
    onclose: () => void;
  }
  /** A month to pick a day from. */
  let { label, day, onpick, onclose }: Props = $props();
  const now = $derived(session.clock?.now.slice(0, 10));
  // svelte-ignore state_referenced_locally
  const value = day ? [parseDate(day)] : [];
  // svelte-ignore state_referenced_locally
  const focused = day ? parseDate(day) : now ? parseDate(now) : today('UTC');
  function key(event: KeyboardEvent): void {
    if (event.key !== 'Escape') return;
    event.stopPropagation();
    onclose();
  }
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="days" onkeydown={key}>
  <DatePicker
    inline
    locale="en-GB"
    startOfWeek={1}
    defaultValue={value}
    defaultFocusedValue={focused}
    onValueChange={(event) => event.value[0] && onpick(event.value[0].toString())}
  >
    <DatePicker.Content aria-label="Calendar: {label}">
      <DatePicker.View view="day">
        <DatePicker.Context>
          {#snippet children(picker)}
            <DatePicker.ViewControl>
              <DatePicker.PrevTrigger aria-label="Month before">‹</DatePicker.PrevTrigger>
              <DatePicker.RangeText />
              <DatePicker.NextTrigger aria-label="Next month">›</DatePicker.NextTrigger>
            </DatePicker.ViewControl>
            <DatePicker.Table>
              <DatePicker.TableHead>
                <DatePicker.TableRow>
                  {#each picker().weekDays as weekDay (weekDay.long)}
                    <DatePicker.TableHeader aria-label={weekDay.long}
                      >{weekDay.short.slice(0, 2)}</DatePicker.TableHeader
                    >
                  {/each}
                </DatePicker.TableRow>
              </DatePicker.TableHead>
              <DatePicker.TableBody>
                {#each picker().weeks as week, n (n)}
                  <DatePicker.TableRow>
                    {#each week as one (one.toString())}
                      <DatePicker.TableCell value={one}>
                        <DatePicker.TableCellTrigger>{one.day}</DatePicker.TableCellTrigger>
                      </DatePicker.TableCell>
                    {/each}
                  </DatePicker.TableRow>
                {/each}
              </DatePicker.TableBody>
            </DatePicker.Table>
          {/snippet}
        </DatePicker.Context>
      </DatePicker.View>
    </DatePicker.Content>
  </DatePicker>
</div>

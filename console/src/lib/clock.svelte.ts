/** What time it is, as the service says it. */
import { api, got } from './api';
import { yearOf } from './format';
import { ask } from './query.svelte';
import { session } from './session.svelte';
import { times } from './times.svelte';

/** Keeps the session's clock going as long as the component that calls it is there. */
export function goesOn(): void {
  const clock = ask(
    ['clock'],
    () => ['clock'],
    (signal) => got(api.GET('/api/v1/clock', { signal }))
  );
  $effect(() => {
    session.clock = clock.data;
    if (clock.data) times.year = yearOf(clock.data.now, clock.data.zone);
  });
  /** The machine's clock goes on without anybody changing it. */
  $effect(() => {
    const timer = setInterval(() => clock.data?.simulated === false && void clock.run(), 20_000);
    return () => clearInterval(timer);
  });
}

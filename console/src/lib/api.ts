/** Typed calls to the service; failures are `Problem`s with a remedy. */
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];

export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
    readonly remedy: string,
    readonly place: string
  ) {
    super(detail);
  }
}

let csrf = '';

/** The token that goes with every change of this session. */
export function useCsrf(token: string): void {
  csrf = token;
}

export const api = createClient<paths>({
  baseUrl: '',
  fetch: (request: Request) => {
    if (request.method !== 'GET') {
      request.headers.set('X-Yugum-CSRF', csrf);
      if (request.method === 'POST') {
        request.headers.set('Idempotency-Key', crypto.randomUUID());
      }
    }
    return patiently(request);
  }
});

const TRIES = 4;

/** A service that cannot for a moment says when it can; each change carries a key, and is done once. */
async function patiently(request: Request): Promise<Response> {
  for (let tries = 1; ; tries++) {
    const reply = await fetch(request.clone());
    if (reply.status !== 503 || tries === TRIES) return reply;
    const seconds = Number(reply.headers.get('Retry-After') ?? 1);
    await new Promise((done) => setTimeout(done, 1000 * Math.min(seconds, 5)));
  }
}

interface Reply<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of a reply, or its problem thrown. */
export async function got<T>(call: Promise<Reply<T>>): Promise<T> {
  let reply: Reply<T>;
  try {
    reply = await call;
  } catch {
    throw new Problem(0, 'unreachable', 'Yugum does not answer.', 'Is the service running?', '');
  }
  if (reply.error !== undefined || !reply.response.ok) {
    const p = (reply.error ?? {}) as Partial<Record<string, string>>;
    throw new Problem(
      reply.response.status,
      p.code ?? 'error',
      p.detail ?? `The service answered ${reply.response.status}.`,
      p.remedy ?? '',
      p.place ?? ''
    );
  }
  return reply.data as T;
}

// For tests: a server that answers by method and path.
import { vi } from 'vitest';

/** What was asked: method and path, as "GET /kit", and the body that was sent. */
export interface Asked {
  key: string;
  body: unknown;
}

/** Stands in for the server. An answer with a `status` is sent with it; where there is none, there is no network. What was asked is returned. */
export function served(answers: Record<string, unknown>, late: (key: string) => Promise<Response> | undefined = () => undefined): Asked[] {
  const sent: Asked[] = [];
  vi.stubGlobal('fetch', async (request: Request) => {
    const { pathname, search } = new URL(request.url);
    const key = `${request.method} ${pathname.replace('/api/v1', '')}${search}`;
    const text = await request.text();
    sent.push({ key, body: text ? (JSON.parse(text) as unknown) : undefined });
    const answer = answers[key];
    if (answer === undefined) throw new TypeError('no network');
    const status = (answer as { status?: number } | null)?.status ?? 200;
    return late(key) ?? new Response(status === 204 ? null : JSON.stringify(answer), { status });
  });
  return sent;
}

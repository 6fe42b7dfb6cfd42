/** Asks the server what the search field finds. What is typed are names: they go in the body, and into no address. */
export async function findHits<Hit>(q: string, signal?: AbortSignal): Promise<Hit[]> {
  const response = await fetch('/api/search', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ q }),
    ...(signal ? { signal } : {}),
  });
  return response.ok ? ((await response.json()) as Hit[]) : [];
}

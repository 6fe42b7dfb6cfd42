/** Sends something to the server in a body. */
const post = (path: string, body: object, signal?: AbortSignal): Promise<Response> =>
  fetch(path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
    ...(signal ? { signal } : {}),
  });

/** What is typed into a list's search field, as it may stand in an address; null when the server could not say. */
export async function searchInAddress(text: string): Promise<string | null> {
  if (text.trim() === '') return '';
  const response = await post('/api/searches', { text: text.slice(0, 200) }).catch(() => null);
  return response?.ok ? ((await response.json()) as { search: string }).search : null;
}

/** Asks the server what the search field finds. What is typed are names: they go in the body, and into no address. */
export async function findHits<Hit>(q: string, signal?: AbortSignal): Promise<Hit[]> {
  const response = await post('/api/search', { q }, signal);
  return response.ok ? ((await response.json()) as Hit[]) : [];
}

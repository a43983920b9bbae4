/** Fetches sound, or throws an error that says `missing`: the browser's own words for an absent server help nobody. */
export async function fetchSound(path: string, missing: string): Promise<ArrayBuffer> {
  try {
    const response = await fetch(path);
    if (response.ok) return await response.arrayBuffer();
  } catch {
    // Said below.
  }
  throw new Error(missing);
}

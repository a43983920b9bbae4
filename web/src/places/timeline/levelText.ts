/** "−6.0" with a real minus. */
export function levelText(levelDb: number): string {
  return levelDb.toFixed(1).replace('-', '−');
}

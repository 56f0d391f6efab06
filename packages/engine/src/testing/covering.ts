/**
 * Of a table of cases those that bring a value in one of the first columns that none before them has; all of them
 * where LURN_EVERY is set (`npm run test:every`).
 */
export function covering<T extends readonly unknown[]>(cases: readonly T[], columns = 2): T[] {
  const seen = new Set<string>();
  return cases.filter((values) => {
    const fresh = values
      .slice(0, columns)
      .map((value, k) => `${k} ${String(value)}`)
      .filter((key) => !seen.has(key));
    fresh.forEach((key) => seen.add(key));
    return fresh.length > 0 || !!process.env.LURN_EVERY;
  });
}

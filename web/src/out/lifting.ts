/** How light the darkest becomes where darks are lifted so much for print, by the table that the core tries when it finds what opens a print. */
export function blackOf(lift: number, lifts: readonly (readonly number[])[]): number {
  let [from, low] = [0, 0];
  for (const [to, high] of lifts as readonly (readonly [number, number])[]) {
    if (lift <= to) return Math.round(1000 * (low + ((high - low) * (lift - from)) / (to - from))) / 1000;
    [from, low] = [to, high];
  }
  return low;
}

/** The next stronger lift of the table. */
export function stronger(lift: number, lifts: readonly (readonly number[])[]): number {
  return lifts.map(([to]) => to!).find((to) => to > lift + 1e-9) ?? 1;
}

/** A copy of `whole` without what stands under `keys`. */
export function without<T extends object, K extends keyof T>(whole: T, ...keys: K[]): Omit<T, K> {
  const left = Object.entries(structuredClone(whole)).filter(([name]) => !keys.some((key) => key === name));
  return Object.fromEntries(left) as Omit<T, K>;
}

/** A copy of `whole` without one of its fields: what is kept has a number or an origin, what is sent has none. */
export function without<T extends object, K extends keyof T>(whole: T, key: K): Omit<T, K> {
  return Object.fromEntries(Object.entries(structuredClone(whole)).filter(([name]) => name !== key)) as Omit<T, K>;
}

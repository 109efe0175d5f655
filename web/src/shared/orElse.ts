/** What is asked of this device, or something else where it has no such store: some browsers throw at once, others refuse later. */
export async function orElse<T, U>(ask: () => Promise<T>, none: U): Promise<T | U> {
  try {
    return await ask()
  } catch {
    return none
  }
}

// One object of several parts: their methods and getters as they are, their plain state anew each
// time.
export function mixed(...parts) {
  const whole = {};
  for (const part of parts) {
    for (const [name, own] of Object.entries(Object.getOwnPropertyDescriptors(part))) {
      if ("value" in own && typeof own.value !== "function") own.value = structuredClone(own.value);
      Object.defineProperty(whole, name, own);
    }
  }
  return whole;
}

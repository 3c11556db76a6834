// The rules of the queue of changes, without a page.

// The waiting changes with one more. A newer place of the same gesture takes the older one's turn,
// unless that one is on its way already (the first while `busy`).
export function queued(waiting, entry, busy) {
  const last = waiting.length - 1;
  const overtakes = last >= (busy ? 1 : 0) && waiting[last].values.gesture === entry.values.gesture;
  return overtakes ? [...waiting.slice(0, last), entry] : [...waiting, entry];
}

const LONGEST_REST = 400; // milliseconds

// Milliseconds to wait after an answer that took so many, before a handle on its way is sent again:
// hands that drag at once leave each other half of a busy site. What rests is sent at once.
export function restAfter(took, values) {
  return "lens" in values ? Math.min(took, LONGEST_REST) : 0;
}

// What an answer's status means for a change: it has arrived, it is refused for good, or it is to
// be tried again.
export function afterStatus(status) {
  if (status === 200 || status === 204) return "done";
  return [400, 403, 404].includes(status) ? "refused" : "again";
}

// Why a change is not saved yet, for whoever made it; status 0 is no answer.
export function notSaved(status) {
  return status === 401
    ? "Signed out. Sign in again; nothing is lost"
    : "Not saved yet; trying again";
}

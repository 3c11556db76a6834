// The rules of the queue of changes, without a page.

// The waiting changes with one more. A newer place of the same gesture takes the older one's turn,
// unless that one is on its way already (the first while `busy`).
export function queued(waiting, entry, busy) {
  const last = waiting.length - 1;
  const overtakes = last >= (busy ? 1 : 0) && waiting[last].values.gesture === entry.values.gesture;
  return overtakes ? [...waiting.slice(0, last), entry] : [...waiting, entry];
}

const SWIFT = 150; // milliseconds that an answer takes at most while a site is not busy
const LESS = 40; // milliseconds by which a rest becomes shorter
const MORE = 1.5; // times as long as it becomes
const LONGEST_REST = 1000; // milliseconds

// Milliseconds to rest after an answer that took so many, before a handle on its way is sent again;
// `before` is the last rest. Hands that drag at once on a busy site each send less often until it
// answers swiftly again, so that figures are late by a rest and not by a queue: the rest grows by a
// factor and shrinks by a step (after Chiu & Jain 1989).
export function restAfter(took, before) {
  const rest = took > SWIFT ? MORE * before : before - LESS;
  return Math.min(Math.max(rest, took), LONGEST_REST);
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

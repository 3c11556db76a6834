// How the photograph lies in the view: the whole of it, or framed on the piece. Sizes in screen
// pixels, places in the view; the frame in the photograph's own.

export const MOST = 8; // times the whole

// How large the whole photograph is in the view.
export function fitted(photo, view) {
  const scale = Math.min(view.width / photo.width, view.height / photo.height);
  return { width: photo.width * scale, height: photo.height * scale };
}

// A place for the left (or upper) edge of something `size` long in a view `room` long: it covers
// the view where it is longer, and stands in the middle where it is shorter.
export function held(at, size, room) {
  return size <= room ? (room - size) / 2 : Math.min(0, Math.max(room - size, at));
}

// The whole photograph: {zoom, x, y}.
export function whole(size, view) {
  return { zoom: 1, x: (view.width - size.width) / 2, y: (view.height - size.height) / 2 };
}

// The photograph with its frame [left, top, width, height] as large as the view allows.
export function framedOn(frame, photo, size, view) {
  const [left, top, wide, high] = frame;
  const scale = size.width / photo.width;
  const fit = Math.min(view.width / (wide * scale), view.height / (high * scale));
  const zoom = Math.min(Math.max(fit, 1), MOST);
  const middle = (from, long) => (from + long / 2) * scale * zoom;
  return {
    zoom,
    x: held(view.width / 2 - middle(left, wide), size.width * zoom, view.width),
    y: held(view.height / 2 - middle(top, high), size.height * zoom, view.height),
  };
}

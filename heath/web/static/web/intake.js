// Pictures dropped or chosen are sent one by one, three at a time, and tried again when the line
// drops.
const form = document.querySelector("form[data-drop]");
if (form) {
  const said = form.querySelector(".sending");
  const input = form.querySelector("input[type=file]");
  const board = document.querySelector(form.dataset.board);
  const queue = [];
  let sending = 0,
    sent = 0,
    all = 0,
    lost = [];

  const tell = (text, fault) => {
    said.textContent = text;
    said.classList.toggle("fault", !!fault);
  };
  const show = () => {
    if (lost.length) tell(lost[0] + (lost.length > 1 ? ` (${lost.length} pictures)` : ""), true);
    else if (sent < all) tell(`${sent} of ${all} sent. Leave this page open until all are.`);
    else if (all) tell(`All ${all} sent.`);
  };
  const refresh = () => htmx.trigger(board, "refresh");

  const send = async (file, tries) => {
    const body = new FormData();
    form
      .querySelectorAll("input[name]:not([type=file])")
      .forEach((e) => body.append(e.name, e.value));
    body.append("photographs", file, file.name);
    try {
      const answer = await fetch(form.dataset.drop, {
        method: "POST",
        body,
        headers: { "X-Each": "1" },
      });
      if (answer.status === 422) {
        lost.push(await answer.text());
        return;
      }
      if (!answer.ok) throw new Error(answer.status);
      sent += 1;
    } catch {
      if (tries < 4) {
        await new Promise((done) => setTimeout(done, 1500 * tries));
        return send(file, tries + 1);
      }
      lost.push(`${file.name} could not be sent. Check the connection and drop it here again.`);
    }
  };
  const next = async () => {
    while (queue.length && sending < 3) {
      const file = queue.shift();
      sending += 1;
      send(file, 1).finally(() => {
        sending -= 1;
        show();
        if (!sending && !queue.length) refresh();
        else if (sent === 1) refresh();
        next();
      });
    }
  };
  const add = (files) => {
    if (!files.length) return;
    if (sent === all) {
      sent = all = 0;
      lost = [];
    }
    // What is too large is not sent at all: the server would refuse it only after the whole of it
    // had come.
    const most = Number(form.dataset.most);
    const large = files.filter((file) => file.size > most);
    large.forEach((file) => {
      const size = `${Math.round(file.size / 1e6)} MB; ${most / 1e6} MB is the most.`;
      lost.push(`${file.name} has ${size} Save it at a lower quality.`);
    });
    const fit = files.filter((file) => file.size <= most);
    all += fit.length;
    queue.push(...fit);
    show();
    next();
  };

  input.addEventListener("change", () => {
    add([...input.files]);
    input.value = "";
  });
  ["dragover", "dragenter"].forEach((kind) =>
    form.addEventListener(kind, (e) => {
      e.preventDefault();
      form.classList.add("over");
    }),
  );
  ["dragleave", "drop"].forEach((kind) =>
    form.addEventListener(kind, () => form.classList.remove("over")),
  );
  form.addEventListener("drop", (e) => {
    e.preventDefault();
    add([...e.dataTransfer.files]);
  });
  window.addEventListener("beforeunload", (e) => {
    if (sending || queue.length) e.preventDefault();
  });
}

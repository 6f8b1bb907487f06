// What the page asks of its desk. What could not be done comes back in words.

export class Refused extends Error {}

async function answered(reply) {
  if (reply.ok) return reply;
  let said = "The desk does not answer as it should (" + reply.status + ").";
  try {
    said = (await reply.json()).said;
  } catch (e) { /* not in words */ }
  throw new Refused(said);
}

function reached(promise) {
  return promise.catch(() => {
    throw new Refused("The desk is closed. Start it again to go on; what was saved is kept.");
  });
}

export async function ask(path) {
  return (await answered(await reached(fetch(path)))).json();
}

export async function askBytes(path) {
  const reply = await answered(await reached(fetch(path)));
  return { headers: reply.headers, bytes: await reply.arrayBuffer() };
}

export async function send(path, content) {
  const asked = {
    method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(content),
  };
  return (await answered(await reached(fetch(path, asked)))).json();
}

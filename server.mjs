// The server: the built page and API on loopback, with isolation headers on every response, and an orderly end.
import { createServer } from 'node:http';
import { existsSync } from 'node:fs';

const host = process.env.HOST ?? '127.0.0.1';
const port = Number(process.env.PORT ?? 4747);
/** An IPv6 address stands in brackets in an address of the web. */
const place = `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
process.env.ORIGIN ??= place;
process.env.BODY_SIZE_LIMIT = 'Infinity';
process.env.ISOTAXIS_ROOT ??= import.meta.dirname;

if (!Number.isInteger(port) || port < 0 || port > 65535) {
  console.error(`PORT is “${process.env.PORT}”. It must be a whole number from 1 to 65535.`);
  process.exit(1);
}
if (!existsSync(new URL('./build/handler.js', import.meta.url))) {
  console.error('Isotaxis is not built yet. Start it with: npm start');
  process.exit(1);
}

let handler;
try {
  ({ handler } = await import('./build/handler.js'));
} catch (error) {
  console.error(error?.message ?? error);
  process.exit(1);
}

const decodable = (url) => {
  try {
    return decodeURI(new URL(url, 'http://here').pathname) !== null;
  } catch (error) {
    if (error instanceof URIError || error instanceof TypeError) return false;
    throw error;
  }
};

const server = createServer((request, response) => {
  response.setHeader('Cross-Origin-Opener-Policy', 'same-origin');
  response.setHeader('Cross-Origin-Embedder-Policy', 'require-corp');
  response.setHeader('Cross-Origin-Resource-Policy', 'same-origin');
  if (!decodable(request.url)) {
    response.writeHead(404, { 'Content-Type': 'application/json' });
    response.end(JSON.stringify({ error: { code: 'not-found', message: 'There is nothing at this address.' } }));
    return;
  }
  // The framework takes a body of no named type for none: an upload by a plain client would look empty.
  request.headers['content-type'] ??= 'application/octet-stream';
  handler(request, response, () => {
    response.statusCode = 404;
    response.end('Not found.');
  });
});
server.requestTimeout = 0;
server.on('error', (error) => {
  console.error(error.code === 'EADDRINUSE' ? `Port ${port} is taken. Choose another with PORT.` : error.message);
  process.exit(1);
});
server.listen(port, host, async () => {
  console.log(`Isotaxis is at ${place}`);
  const { door } = await globalThis.isotaxis;
  if (door.guarded) console.log('Others can reach it: everyone is asked for the passphrase.');
});

let ending = false;
const end = async () => {
  if (ending) return;
  ending = true;
  server.close();
  server.closeAllConnections();
  const app = await globalThis.isotaxis;
  await app?.close();
  process.exit(0);
};
process.on('SIGTERM', end);
process.on('SIGINT', end);

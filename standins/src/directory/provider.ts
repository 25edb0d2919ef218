import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Provider, type Grant } from 'oidc-provider';
import { CLIENT, DIRECTORY } from './people.js';

/*
 * A directory that vouches for people (OpenID Connect Core 1.0), for demonstrations and tests: `provider.js PORT HOME…`,
 * HOME being where the house's server is reached. What it knows is gone with it.
 */

const found = (name: string) => DIRECTORY.find((one) => one.name === name);

/** One page, one form: who are you? */
const page = (uid: string, problem: string) => `<!doctype html><meta charset="utf-8"><title>Trust directory</title>
<form method="post" action="/interaction/${uid}"><h1>Trust directory</h1><p>${problem}</p>
<label>Directory name <input name="name" autofocus></label> <label>Directory password <input name="password" type="password"></label>
<button>Go on</button></form>`;

async function bodyOf(request: IncomingMessage): Promise<URLSearchParams> {
  let text = '';
  for await (const piece of request) text += String(piece);
  return new URLSearchParams(text);
}

/** @param homes addresses of houses that may ask @returns the listening server */
export async function startDirectory(port: number, homes: readonly string[]): Promise<Server> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  const issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const provider: Provider = new Provider(issuer, {
    clients: [
      {
        client_id: CLIENT.id,
        client_secret: CLIENT.secret,
        redirect_uris: homes.map((home) => `${home}/api/session/directory/back`),
        grant_types: ['authorization_code'],
        response_types: ['code'],
      },
    ],
    pkce: { required: () => true },
    claims: { openid: ['sub'], profile: ['preferred_username', 'groups'] },
    conformIdTokenClaims: false,
    features: { devInteractions: { enabled: false } },
    interactions: { url: (_context, { uid }) => `/interaction/${uid}` },
    cookies: { keys: ['made up for a demonstration'] },
    findAccount: (_context, name) => {
      const one = found(name);
      return one && { accountId: name, claims: () => ({ sub: name, preferred_username: name, groups: [...one.groups] }) };
    },
    // Whoever signs in has agreed: it is the house's own directory.
    loadExistingGrant: async (context): Promise<Grant | undefined> => {
      const { client, session } = context.oidc;
      if (!client || !session?.accountId) return undefined;
      const grant = new provider.Grant({ clientId: client.clientId, accountId: session.accountId });
      grant.addOIDCScope('openid profile');
      await grant.save();
      return grant;
    },
  });
  const callback = provider.callback();
  server.on('request', (request, response) => {
    const [, uid] = /^\/interaction\/([\w-]+)$/.exec(request.url ?? '') ?? [];
    if (!uid) return void callback(request, response);
    const answer = async () => {
      await provider.interactionDetails(request, response);
      if (request.method !== 'POST') return void response.setHeader('Content-Type', 'text/html').end(page(uid, ''));
      const said = await bodyOf(request);
      const one = found(said.get('name') ?? '');
      if (one?.password !== said.get('password'))
        return void response
          .setHeader('Content-Type', 'text/html')
          .end(page(uid, 'Nobody is called that here, or not with that password.'));
      await provider.interactionFinished(request, response, { login: { accountId: one.name } });
    };
    answer().catch((error: unknown) => {
      response.statusCode = 400;
      response.end(String(error));
    });
  });
  return server;
}

if (process.argv[1] === import.meta.filename) {
  const [port, ...homes] = process.argv.slice(2);
  const server = await startDirectory(Number(port), homes);
  console.log(`directory at http://127.0.0.1:${(server.address() as AddressInfo).port}`);
}

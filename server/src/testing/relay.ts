import { connect, createServer, type AddressInfo, type Socket } from 'node:net';

/** A line to a server that can fall silent, as when a cable is pulled: nobody is told, nothing arrives any more. */
export interface Relay {
  readonly port: number;
  silence(): void;
  /** What was sent meanwhile arrives; new connections are taken. */
  mend(): void;
  close(): void;
}

export async function relayTo(port: number): Promise<Relay> {
  const sockets = new Set<Socket>();
  let silent = false;
  const relay = createServer((client) => {
    const onward = connect(port, '127.0.0.1');
    for (const socket of [client, onward]) {
      sockets.add(socket);
      socket.on('error', () => undefined);
      socket.on('close', () => sockets.delete(socket));
      if (silent) socket.pause();
    }
    client.on('data', (chunk) => onward.write(chunk));
    onward.on('data', (chunk) => client.write(chunk));
    client.on('end', () => onward.end());
    onward.on('end', () => client.end());
  });
  await new Promise<void>((resolve) => relay.listen(0, '127.0.0.1', resolve));
  return {
    port: (relay.address() as AddressInfo).port,
    silence: () => {
      silent = true;
      for (const socket of sockets) socket.pause();
    },
    mend: () => {
      silent = false;
      for (const socket of sockets) socket.resume();
    },
    close: () => {
      for (const socket of sockets) socket.destroy();
      relay.close();
    },
  };
}

import { Decrypter, Encrypter } from 'age-encryption';
import workerpool from 'workerpool';

/*
 * Stretching a passphrase takes a processor for seconds, on purpose: in a thread of its own, so that the desk answers meanwhile.
 */

async function sealText(passphrase: string, text: string): Promise<Uint8Array> {
  const encrypter = new Encrypter();
  encrypter.setPassphrase(passphrase);
  return encrypter.encrypt(text);
}

/** @returns null when the passphrase is another one, or it is none of age's files */
async function openText(passphrase: string, sealed: Uint8Array): Promise<string | null> {
  const decrypter = new Decrypter();
  decrypter.addPassphrase(passphrase);
  return decrypter.decrypt(sealed, 'text').catch(() => null);
}

workerpool.worker({ sealText, openText });

/** Passkeys: the browser's own documents, made and signed where it can. */

type Options = Record<string, unknown>;
type Json = Record<string, unknown>;

/** Browsers make keys under names only, and older ones none. */
export const canMakePasskeys = (): boolean =>
  typeof PublicKeyCredential !== 'undefined' &&
  'parseCreationOptionsFromJSON' in PublicKeyCredential &&
  !/^[\d.]+$|:/.test(window.location.hostname);

async function asDocument(asked: Promise<Credential | null>): Promise<Json | null> {
  // Somebody who changes their mind is no fault.
  const made = await asked.catch(() => null);
  return made instanceof PublicKeyCredential ? (made.toJSON() as unknown as Json) : null;
}

/** A new key, or null where somebody changed their mind. */
export const makePasskey = (options: Options): Promise<Json | null> =>
  asDocument(
    navigator.credentials.create({
      publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(options as never),
    }),
  );

/** What a key signs, or null where somebody changed their mind. */
export const signByPasskey = (options: Options): Promise<Json | null> =>
  asDocument(
    navigator.credentials.get({
      publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(options as never),
    }),
  );

import { createCipheriv, createDecipheriv, createHash, createHmac, randomBytes } from "node:crypto";
import { setting } from "@/core/settings/environment";

/**
 * Secrets at rest: AES-256-GCM (NIST SP 800-38D) under the key in TIN_SECRET_KEY, which every process of an installation
 * shares. A sealed secret is nonce (12 bytes), tag (16 bytes), text.
 */

const NONCE = 12;
const TAG = 16;

/** @throws where no key is set */
function key(): Buffer {
  const text = setting("TIN_SECRET_KEY");
  if (!text)
    throw new Error("TIN_SECRET_KEY is not set: give every web and intake process the same long random text there");
  return createHash("sha256").update(text).digest();
}

export function sealSecret(text: string): Buffer {
  const nonce = randomBytes(NONCE);
  const cipher = createCipheriv("aes-256-gcm", key(), nonce);
  const sealed = Buffer.concat([cipher.update(text, "utf8"), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

/** @throws where the secret was sealed under another key, or was changed */
export function openSecret(sealed: Buffer): string {
  const decipher = createDecipheriv("aes-256-gcm", key(), sealed.subarray(0, NONCE));
  decipher.setAuthTag(sealed.subarray(NONCE, NONCE + TAG));
  try {
    return decipher.update(sealed.subarray(NONCE + TAG), undefined, "utf8") + decipher.final("utf8");
  } catch {
    throw new Error("the secret cannot be opened: TIN_SECRET_KEY is not the one that it was saved with");
  }
}

/** What one process of an installation shows another to be answered. */
export function houseKey(): string {
  return signingKey("between processes");
}

/** A key of its own for each purpose, the same in every process of an installation. */
export function signingKey(purpose: string): string {
  return createHmac("sha256", key()).update(purpose).digest("base64url");
}

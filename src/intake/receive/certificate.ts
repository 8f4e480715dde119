import { readFileSync } from "node:fs";
import tls from "node:tls";
import type { experimental } from "@grpc/grpc-js";
import { SettingError } from "@/core/settings/settings";

/** The certificate that receivers show, read again when its files change: who renews it need not restart anything. */

/** How often the files are looked at, ms. */
const LOOK_EVERY = 5000;

/** A certificate with its key (PEM). */
export interface Identity {
  certificate: Buffer;
  privateKey: Buffer;
}

type Listener = (identity: Identity | null) => void;

export class Certificate implements experimental.CertificateProvider {
  private latest: Identity;
  private readonly listeners = new Set<Listener>();
  private readonly timer: NodeJS.Timeout;

  /**
   * @param failed is told why files that changed cannot be used; the certificate before is shown on
   * @throws SettingError where there is none to show
   */
  constructor(
    private readonly files: { certificate: string; key: string },
    failed: (error: Error) => void,
  ) {
    try {
      this.latest = this.read();
    } catch (error) {
      throw new SettingError(`TIN_TLS_CERT and TIN_TLS_KEY cannot be used: ${(error as Error).message}`);
    }
    this.timer = setInterval(() => this.look(failed), LOOK_EVERY);
    this.timer.unref();
  }

  get identity(): Identity {
    return this.latest;
  }

  stop(): void {
    clearInterval(this.timer);
  }

  /** Looks whether the files are others now. */
  look(failed: (error: Error) => void): void {
    try {
      const next = this.read();
      const { certificate, privateKey } = this.latest;
      if (next.certificate.equals(certificate) && next.privateKey.equals(privateKey)) return;
      this.latest = next;
      for (const listener of this.listeners) listener(next);
    } catch (error) {
      failed(error as Error);
    }
  }

  private read(): Identity {
    const identity = {
      certificate: readFileSync(this.files.certificate),
      privateKey: readFileSync(this.files.key),
    };
    // Throws where the two do not belong together, as while only one of them was written yet.
    tls.createSecureContext({ cert: identity.certificate, key: identity.privateKey });
    return identity;
  }

  addIdentityCertificateListener(listener: Listener): void {
    this.listeners.add(listener);
    // Who listens may not be ready before it has come back from here.
    setImmediate(() => listener(this.latest));
  }

  removeIdentityCertificateListener(listener: Listener): void {
    this.listeners.delete(listener);
  }

  addCaCertificateListener(): void {}

  removeCaCertificateListener(): void {}
}

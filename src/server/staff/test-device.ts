/** For the tests: a device with a passkey, as a browser would hand over what it answers. */
import { createHash, generateKeyPairSync, randomBytes, sign, type KeyObject } from 'node:crypto';
import type { AuthenticationResponseJSON, RegistrationResponseJSON } from '@simplewebauthn/server';
import { isoCBOR } from '@simplewebauthn/server/helpers';

const base64 = (bytes: Uint8Array) => Buffer.from(bytes).toString('base64url');
const sha256 = (data: Uint8Array | string) => createHash('sha256').update(data).digest();

/** User present and verified. */
const FLAGS = 0x05;
const WITH_CREDENTIAL = 0x40;

export class TestDevice {
  private readonly keys = generateKeyPairSync('ec', { namedCurve: 'P-256' });
  readonly id = base64(randomBytes(16));
  counter = 0;

  constructor(
    private readonly origin: string,
    private readonly host: string,
    /** Did its owner show a finger, a face or a number? */
    private readonly isVerified = true,
  ) {}

  private clientData(type: 'webauthn.create' | 'webauthn.get', challenge: string): Buffer {
    return Buffer.from(JSON.stringify({ type, challenge, origin: this.origin, crossOrigin: false }));
  }

  private data(flags: number): Buffer {
    const counter = Buffer.alloc(4);
    counter.writeUInt32BE((this.counter += 1));
    const verified = this.isVerified ? flags : flags & ~0x04;
    return Buffer.concat([sha256(this.host), Buffer.from([verified]), counter]);
  }

  make(challenge: string): RegistrationResponseJSON {
    const { x, y } = (this.keys.publicKey as KeyObject).export({ format: 'jwk' });
    const key = new Map<number, number | Uint8Array>([
      [1, 2],
      [3, -7],
      [-1, 1],
      [-2, new Uint8Array(Buffer.from(x!, 'base64url'))],
      [-3, new Uint8Array(Buffer.from(y!, 'base64url'))],
    ]);
    const id = Buffer.from(this.id, 'base64url');
    const length = Buffer.alloc(2);
    length.writeUInt16BE(id.length);
    const authData = Buffer.concat([
      this.data(FLAGS | WITH_CREDENTIAL),
      Buffer.alloc(16),
      length,
      id,
      isoCBOR.encode(key as never),
    ]);
    const attestation = new Map<string, unknown>([
      ['fmt', 'none'],
      ['attStmt', new Map()],
      ['authData', new Uint8Array(authData)],
    ]);
    return {
      id: this.id,
      rawId: this.id,
      type: 'public-key',
      clientExtensionResults: {},
      response: {
        clientDataJSON: base64(this.clientData('webauthn.create', challenge)),
        attestationObject: base64(isoCBOR.encode(attestation as never)),
        transports: ['internal'],
      },
    };
  }

  sign(challenge: string): AuthenticationResponseJSON {
    const client = this.clientData('webauthn.get', challenge);
    const data = this.data(FLAGS);
    return {
      id: this.id,
      rawId: this.id,
      type: 'public-key',
      clientExtensionResults: {},
      response: {
        clientDataJSON: base64(client),
        authenticatorData: base64(data),
        signature: base64(sign('sha256', Buffer.concat([data, sha256(client)]), this.keys.privateKey)),
      },
    };
  }
}

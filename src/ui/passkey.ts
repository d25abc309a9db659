/** Asking a device for a passkey in the browser (Web Authentication). */
import {
  startAuthentication,
  startRegistration,
  type AuthenticationResponseJSON,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  type RegistrationResponseJSON,
} from '@simplewebauthn/browser';

type Answered<T> = { ok: true; value: T } | { ok: false; says: string };

const WORDS: Record<string, string> = {
  NotAllowedError: 'The device did not answer, or you called it off.',
  InvalidStateError: 'This device has a passkey for Lee Shore already.',
  SecurityError: 'Passkeys cannot be used at this address.',
};

/** Asks a device and hands over what it answered. Returns null when that went well, or what went wrong in words. */
async function withDevice<Options, Answer>(
  ask: () => Promise<Answered<Options>>,
  device: (options: Options) => Promise<Answer>,
  hand: (answer: Answer) => Promise<Answered<void>>,
): Promise<string | null> {
  try {
    const asked = await ask();
    if (!asked.ok) return asked.says;
    const handed = await hand(await device(asked.value));
    return handed.ok ? null : handed.says;
  } catch (error) {
    return WORDS[(error as Error).name] ?? 'The device could not be asked. Try again.';
  }
}

/** Signs with a passkey. */
export function signWithPasskey(
  ask: () => Promise<Answered<PublicKeyCredentialRequestOptionsJSON>>,
  hand: (answer: AuthenticationResponseJSON) => Promise<Answered<void>>,
): Promise<string | null> {
  return withDevice(ask, (optionsJSON) => startAuthentication({ optionsJSON }), hand);
}

/** Makes a passkey. */
export function makePasskey(
  ask: () => Promise<Answered<PublicKeyCredentialCreationOptionsJSON>>,
  hand: (answer: RegistrationResponseJSON) => Promise<Answered<void>>,
): Promise<string | null> {
  return withDevice(ask, (optionsJSON) => startRegistration({ optionsJSON }), hand);
}

/**
 * Text messages over an HTTP gateway: one POST of JSON a message, with an `Idempotency-Key` of
 * the message's own, so that trying again after a broken line never sends it twice.
 */
import type { DueMessage } from '@/data/contact/messages';

/** How long the gateway may take, in ms. */
const PATIENCE = 15_000;

/** The gateway said no: this message will never go. */
export class GatewayRefusal extends Error {
  override name = 'GatewayRefusal';
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export type TextGateway = (message: DueMessage) => Promise<void>;

/** The gateway at an address such as http://127.0.0.1:4304; null without one. */
export function openGateway(url: string | null): TextGateway | null {
  if (!url) return null;
  const target = new URL('messages', url.endsWith('/') ? url : `${url}/`);
  return async ({ address, body, message_id, from_name }) => {
    const answer = await fetch(target, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'idempotency-key': message_id },
      body: JSON.stringify({ to: address, text: body, from: from_name }),
      signal: AbortSignal.timeout(PATIENCE),
    });
    if (answer.ok) return;
    const says = (await answer.text()).slice(0, 300);
    const text = `${answer.status} ${says}`.trim();
    // 408 and 429 ask for patience; every other 4xx is about the message itself.
    if (answer.status >= 400 && answer.status < 500 && answer.status !== 408 && answer.status !== 429)
      throw new GatewayRefusal(text, answer.status);
    throw new Error(text);
  };
}

/** Sending statements over HTTP, in both versions of the format, without losing one. */
import type { Statement } from './platform';

export interface Target {
  /** Such as http://127.0.0.1:4300/xapi */
  endpoint: string;
  key: string;
  secret: string;
}

const BATCH = 25;
/** Statements kept for a receiver that does not answer. */
const MOST_WAITING = 5000;

export class Sender {
  private waiting: Statement[] = [];
  private isSending = false;
  private turn = 0;
  sent = 0;
  trouble: string | null = null;

  constructor(private readonly target: Target) {}

  get queued(): number {
    return this.waiting.length;
  }

  /** Puts statements in the queue and sends what is in it; what is refused for good is dropped and said. */
  async send(statements: readonly Statement[]): Promise<void> {
    this.waiting.push(...statements);
    this.waiting = this.waiting.slice(-MOST_WAITING);
    if (this.isSending) return;
    this.isSending = true;
    try {
      while (this.waiting.length > 0) {
        const batch = this.waiting.slice(0, BATCH);
        const answer = await this.post(batch);
        if (!answer.ok) {
          this.trouble = `${answer.status} ${(await answer.text()).slice(0, 200)}`;
          // A batch that is wrong stays wrong; anything else may pass.
          if (answer.status !== 400 && answer.status !== 409) return;
        } else {
          this.sent += batch.length;
          this.trouble = null;
        }
        this.waiting = this.waiting.slice(batch.length);
      }
    } catch (error) {
      this.trouble = error instanceof Error ? error.message : String(error);
    } finally {
      this.isSending = false;
    }
  }

  /** Turn and turn about by the older version with a basic credential, and the newer with a bearer one. */
  private post(batch: readonly Statement[]): Promise<Response> {
    const { endpoint, key, secret } = this.target;
    this.turn += 1;
    const basic = this.turn % 2 === 1;
    return fetch(`${endpoint}/statements`, {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        'x-experience-api-version': basic ? '1.0.3' : '2.0.0',
        authorization: basic ? `Basic ${Buffer.from(`${key}:${secret}`).toString('base64')}` : `Bearer ${secret}`,
      },
      body: JSON.stringify(batch.length === 1 ? batch[0] : batch),
      signal: AbortSignal.timeout(10_000),
    });
  }
}

import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { DueMessage } from '@/data/contact/messages';
import { GatewayRefusal, openGateway } from './text-gateway';

const MESSAGE = {
  address: '+441632960001',
  body: 'Hello Ines',
  message_id: 'key@lee-shore.example',
  from_name: 'Mair Tolland',
} as DueMessage;

let server: Server;
let status: number;
let asked: { url?: string; headers: IncomingMessage['headers']; body: string }[];

beforeEach(async () => {
  asked = [];
  server = createServer((request, response) => {
    let body = '';
    request.on('data', (chunk) => (body += chunk));
    request.on('end', () => {
      asked.push({ url: request.url, headers: request.headers, body });
      response.writeHead(status).end('says why');
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
});
afterEach(() => new Promise((resolve) => server.close(resolve)));

const url = (path = '') => `http://127.0.0.1:${(server.address() as AddressInfo).port}${path}`;

describe('the text-message gateway', () => {
  it('is asked with JSON and the message’s own key, below whatever path it has', async () => {
    status = 202;
    await openGateway(url())!(MESSAGE);
    await openGateway(url('/sms/v2'))!(MESSAGE);
    expect(asked.map((one) => one.url)).toEqual(['/messages', '/sms/v2/messages']);
    expect(asked[0].headers).toMatchObject({
      'idempotency-key': MESSAGE.message_id,
      'content-type': 'application/json',
    });
    expect(JSON.parse(asked[0].body)).toEqual({ to: '+441632960001', text: 'Hello Ines', from: 'Mair Tolland' });
  });

  it.each([400, 403, 404, 422])('refuses a message for good with %i', async (code) => {
    status = code;
    await expect(openGateway(url())!(MESSAGE)).rejects.toThrow(GatewayRefusal);
    await expect(openGateway(url())!(MESSAGE)).rejects.toThrow(`${code} says why`);
  });

  it.each([408, 429, 500, 503])('asks for another try with %i', async (code) => {
    status = code;
    const failure = await openGateway(url())!(MESSAGE).catch((error: unknown) => error);
    expect(failure).toBeInstanceOf(Error);
    expect(failure).not.toBeInstanceOf(GatewayRefusal);
  });

  it('that is away asks for another try, and one that is not set is none', async () => {
    const failure = await openGateway('http://127.0.0.1:9')!(MESSAGE).catch((error: unknown) => error);
    expect(failure).not.toBeInstanceOf(GatewayRefusal);
    expect(openGateway(null)).toBeNull();
  });
});

/** The text-message stand-in: an HTTP gateway with a page that shows what arrived, in memory, on this machine alone. */
import { openGateway } from './gateway';

const port = Number(process.env.SMS_PORT ?? 4304);
openGateway().server.listen(port, '127.0.0.1', () => console.log(`Text-message stand-in on http://127.0.0.1:${port}`));

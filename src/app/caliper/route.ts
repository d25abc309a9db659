import { postEnvelope } from '@/server/feed/caliper/take';

export { postEnvelope as POST };

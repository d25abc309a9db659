'use server';

import { defineAction, text } from '@/server/request/action';
import * as certificates from '@/server/people/certificates';

export const giveCertificate = defineAction({ takes: [text, text], run: certificates.giveCertificate });

export const revokeCertificate = defineAction({ takes: [text], run: certificates.revokeCertificate });

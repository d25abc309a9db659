import { api } from '@/server/request/api';
import { surveyAnswer } from '@/server/surveys/surveys-list';

export const GET = api<{ survey: string }>(async ({ runtime, viewer, query }, { survey }) =>
  Response.json(await surveyAnswer(runtime, viewer, survey, query)),
);

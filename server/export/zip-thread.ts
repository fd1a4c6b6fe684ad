import { ZipWriter } from '../files/zip-writer.ts';
import { answerQuestions } from '../workers/thread.ts';
import type { ZipQuestion } from './zip.ts';

let zip: ZipWriter;

answerQuestions<ZipQuestion, null>(async (question, progress) => {
  if ('open' in question) zip = new ZipWriter(question.open);
  else if ('text' in question) zip.text(question.name, question.text);
  else if ('entries' in question)
    for (const [at, entry] of question.entries.entries()) {
      await zip.add(entry);
      progress(at + 1, question.entries.length);
    }
  else await zip.end();
  return null;
});

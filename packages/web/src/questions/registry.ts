import type { Question } from '../stores/question.ts';
import { changes } from './changes/index.ts';
import { collections } from './collections/index.ts';
import { growth } from './growth/index.ts';
import { holding } from './holding/index.ts';
import { ledger } from './ledger/index.ts';
import { sites } from './sites/index.ts';
import { survival } from './survival/index.ts';

/** Every question, in the order of the rail; the first is where a recording opens. */
export const QUESTIONS: readonly Question[] = [growth, collections, sites, survival, holding, changes, ledger];

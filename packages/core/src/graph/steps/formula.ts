import { Recent } from '../../recent';
import { lowerFormula } from '../formula/lower';
import type { ParsedFormula } from '../formula/parse';
import { FormulaError, parseFormula } from '../formula/parse';
import type { StepInput, GraphStep } from '../step';

const parsed = new Recent<string, ParsedFormula | FormulaError>(200);
/** A formula, or what is wrong with it: the same text is read once. */
export const readFormula = (text: string): ParsedFormula | FormulaError =>
  parsed.of(text, () => {
    try {
      return parseFormula(text);
    } catch (error) {
      return error as FormulaError;
    }
  });

const inputsOf = (text: string): readonly StepInput[] => {
  const read = readFormula(text);
  return read instanceof FormulaError
    ? []
    : read.inputs.map(({ name, type }) => ({ name, type: type ?? 'any', initial: new Array<number>(type ? Number(type.slice(3)) || 1 : 1).fill(0) }));
};

export const FORMULA: GraphStep = {
  name: 'formula',
  group: 'arithmetic',
  help: 'An expression in GLSL ES 3.00; names in it are its inputs. "in vec3 tint;" before it says of which type one is',
  words: 'expression, code, custom, write maths, script',
  materialx: 'PB_formula',
  inputs: ({ settings }) => inputsOf(String(settings['text'] ?? FORMULA_START)),
  outputs: () => [{ name: 'out', type: 'any' }],
  settings: [{ name: 'text', label: 'formula', kind: 'text', initial: 'clamp((a - b) * 4.0, 0.0, 1.0)' }],
  lower: ({ b, input, setting, fail }) => {
    const read = readFormula(String(setting('text')));
    if (read instanceof FormulaError) return fail('formula', read.message, undefined, read);
    try {
      return { out: lowerFormula(b, read.body, input) };
    } catch (error) {
      if (error instanceof FormulaError) return fail('formula', error.message, undefined, error);
      throw error;
    }
  },
};
const FORMULA_START = String(FORMULA.settings[0].initial);

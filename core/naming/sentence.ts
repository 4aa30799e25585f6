import { separatorWords } from './separators.ts';
import { plural } from '../words.ts';
import type { NameRule, NamingSpec } from './rules.ts';

const whereWords = { stem: '', ending: ' in the ending', whole: ' in the whole name' };

/** A rule read aloud, without a dot: `number from 1001, 4 digits`. */
export function ruleWords(rule: NameRule): string {
  switch (rule.kind) {
    case 'template':
      return `named ${rule.template}`;
    case 'number': {
      const parts = [
        rule.first === null ? '' : `from ${rule.first}`,
        rule.step === null ? '' : `by ${rule.step}`,
        rule.gaps === 'close' ? 'gaps closed' : '',
        rule.digits === 'auto' ? 'padded to one width' : rule.digits === null ? '' : plural(rule.digits, 'digit'),
        rule.before === null ? '' : `${separatorWords(rule.before)} before it`,
      ].filter(Boolean);
      return `numbers ${parts.length > 0 ? parts.join(', ') : 'written alike'}`;
    }
    case 'replace':
      return rule.find === ''
        ? 'find and replace'
        : `${rule.find} becomes ${rule.with === '' ? 'nothing' : rule.with}${whereWords[rule.where]}`;
    case 'case':
      return `${{ lower: 'small letters', upper: 'capital letters', words: 'Words With Capitals' }[rule.to]}${rule.where === 'both' ? '' : rule.where === 'stem' ? ' before the number' : ' in the ending'}`;
    case 'separators':
      return rule.to === '' ? 'no separators' : `${separatorWords(rule.to)} between words`;
    case 'trim':
      return rule.start === 0 && rule.end === 0
        ? 'ends tidied'
        : [
            rule.start > 0 && `${plural(rule.start, 'letter')} off the start`,
            rule.end > 0 && `${plural(rule.end, 'letter')} off the end`,
          ]
            .filter(Boolean)
            .join(', ');
    case 'characters':
      return `letters and digits${rule.keep === '' ? ' only' : ` and ${rule.keep}`}`;
    case 'spelling':
      return 'spelled alike';
  }
}

/** What each mode is called, as a person says it. */
export const modeWords: Record<NamingSpec['mode'], string> = {
  rename: 'Rename',
  copy: 'Copy',
  link: 'Hard link',
  move: 'Move',
};

/** The stack read aloud: `Rename 59 files: numbers padded to one width; small letters.` */
export function namingSentence(spec: NamingSpec, files: number, into: string): string {
  const rules = spec.rules.filter(({ on }) => on).map(ruleWords);
  const where = spec.mode === 'rename' ? '' : ` into ${into}`;
  const joined = spec.join ? ', joined end to end' : '';
  return `${modeWords[spec.mode]} ${plural(files, 'file')}${where}${joined}${rules.length > 0 ? `: ${rules.join('; ')}` : ''}.`;
}

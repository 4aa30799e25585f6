import type { Command } from 'commander';

/** A script by which a shell completes commands and their options; files where neither fits. */
export function completionFor(shell: 'bash' | 'zsh', program: Command): string {
  const { commands } = program;
  const cases = commands.map(
    (command) => `    ${command.name()}) words="${command.options.map(({ long }) => long).join(' ')} --help" ;;`,
  );
  const script = `_shale() {
  local word="\${COMP_WORDS[COMP_CWORD]}" words=""
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "${commands.map((command) => command.name()).join(' ')}" -- "$word"))
    return
  fi
  case "\${COMP_WORDS[1]}" in
${cases.join('\n')}
  esac
  case "$word" in
    -*) COMPREPLY=($(compgen -W "$words" -- "$word")) ;;
    *) COMPREPLY=($(compgen -f -- "$word")) ;;
  esac
}
complete -o filenames -F _shale shale
`;
  return shell === 'zsh' ? `autoload -U +X bashcompinit && bashcompinit\n${script}` : script;
}

# Completion of mild-compass for bash.
_mild_compass() {
    local word="${COMP_WORDS[COMP_CWORD]}" options=""
    case "${COMP_WORDS[1]}" in
@OPTIONS@
    esac
    if [ "$COMP_CWORD" -eq 1 ]; then
        COMPREPLY=($(compgen -W "@COMMANDS@" -- "$word") $(compgen -f -- "$word"))
    elif [[ "$word" == -* ]]; then
        COMPREPLY=($(compgen -W "$options" -- "$word"))
    else
        COMPREPLY=($(compgen -f -- "$word"))
    fi
}
complete -o filenames -F _mild_compass mild-compass

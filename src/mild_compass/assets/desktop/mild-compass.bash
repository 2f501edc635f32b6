# Completion of mild-compass for bash.
_mild_compass() {
    local word="${COMP_WORDS[COMP_CWORD]}"
    if [ "$COMP_CWORD" -eq 1 ]; then
        COMPREPLY=($(compgen -W "@COMMANDS@" -- "$word") $(compgen -f -- "$word"))
    else
        COMPREPLY=($(compgen -f -- "$word"))
    fi
}
complete -o filenames -F _mild_compass mild-compass

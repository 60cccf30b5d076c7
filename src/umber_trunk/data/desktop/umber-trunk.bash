_umber_trunk() {
    local word=${COMP_WORDS[COMP_CWORD]}
    if [ "$COMP_CWORD" -eq 1 ]; then
        mapfile -t COMPREPLY < <(compgen -W "say import take play jobs lengths board section cover infer size pack figures optimise worth fit pinmap mate strip catalogue coils labels buy shelf instead wirecheck papers order make log charts gauge tests prove meter practise faults identify learn loops units diff upgrade repair verify disputes strike station new export assumed schema variants shop lessons devices job quote plan check mend status solve history freeze copies salvage restore open demo shots bench install --help --version" -- "$word"; compgen -f -X "!*.umber" -- "$word")
    else
        mapfile -t COMPREPLY < <(compgen -f -- "$word")
    fi
}
complete -o filenames -F _umber_trunk umber-trunk umber ./umber

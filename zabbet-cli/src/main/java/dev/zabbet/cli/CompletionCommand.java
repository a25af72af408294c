package dev.zabbet.cli;

import picocli.AutoComplete;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Prints a script that completes the command in a shell. */
@Command(
        name = "completion",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Prints a script that completes commands and options in bash, and in zsh with bashcompinit.",
            "",
            "Example: source <(zabbet completion)",
            ""
        })
final class CompletionCommand implements Runnable {
    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        spec.commandLine()
                .getOut()
                .print(AutoComplete.bash("zabbet", spec.root().commandLine()));
        spec.commandLine().getOut().flush();
    }
}

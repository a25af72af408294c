package dev.zabbet.cli;

import dev.zabbet.error.ZabbetException;
import java.io.IOException;
import java.io.InputStream;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.util.Properties;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.IVersionProvider;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Spec;

/** The command with its subcommands. Exit status: 0 done, 1 an expectation does not hold, 2 it could not be done. */
@Command(
        name = "zabbet",
        mixinStandardHelpOptions = true,
        versionProvider = Zabbet.Version.class,
        sortOptions = false,
        description = "Arranges rows with valid references, and tells what is stored.",
        subcommands = {
            DemoCommand.class,
            SchemaCommand.class,
            ValidateCommand.class,
            LoadCommand.class,
            AddCommand.class,
            VerifyCommand.class,
            RunCommand.class,
            ClearCommand.class,
            DedicateCommand.class,
            CompletionCommand.class
        },
        footer = {
            "",
            "The database is named by --db, or by ZABBET_DB; user and password come from ZABBET_USER and"
                    + " ZABBET_PASSWORD.",
            "",
            "Begin with: zabbet demo"
        })
public final class Zabbet implements Runnable {
    private static final int COULD_NOT = 2;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    private Zabbet() {}

    /** Runs the command and ends the process with its exit status. */
    public static void main(String[] arguments) {
        System.setProperty("java.util.logging.SimpleFormatter.format", "zabbet: %5$s%n"); // what the library logs
        PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
        PrintStream err = new PrintStream(System.err, true, StandardCharsets.UTF_8);
        System.exit(run(out, err, arguments));
    }

    /** Runs the command and returns its exit status. */
    static int run(PrintStream out, PrintStream err, String... arguments) {
        CommandLine command = new CommandLine(new Zabbet());
        command.setOut(new PrintWriter(out, true, StandardCharsets.UTF_8));
        command.setErr(new PrintWriter(err, true, StandardCharsets.UTF_8));
        command.setCaseInsensitiveEnumValuesAllowed(true);
        command.setExecutionExceptionHandler((exception, line, result) -> {
            if (exception instanceof ZabbetException) {
                line.getErr().println("zabbet: " + exception.getMessage());
            } else {
                line.getErr().println("zabbet: something went wrong that should not. Please report it:");
                exception.printStackTrace(line.getErr());
            }
            return COULD_NOT;
        });
        return command.execute(arguments);
    }

    @Override
    public void run() {
        throw new ParameterException(
                spec.commandLine(),
                "Which command? Known: demo, schema, validate, load, add, verify, run, clear, dedicate, completion.");
    }

    /** Reads the version that the build wrote down. */
    static final class Version implements IVersionProvider {
        @Override
        public String[] getVersion() throws IOException {
            Properties properties = new Properties();
            try (InputStream in = Zabbet.class.getResourceAsStream("version.properties")) {
                properties.load(in);
            }
            return new String[] {
                "zabbet " + properties.getProperty("version") + " (Java "
                        + Runtime.version().feature() + ")"
            };
        }
    }
}

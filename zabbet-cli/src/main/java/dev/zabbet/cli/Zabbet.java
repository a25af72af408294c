package dev.zabbet.cli;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import java.io.IOException;
import java.io.InputStream;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Properties;
import java.util.function.Supplier;
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
        footer = {
            "",
            "The database is named by --db, or by ZABBET_DB; user and password come from ZABBET_USER and"
                    + " ZABBET_PASSWORD.",
            "",
            "Begin with: zabbet demo"
        })
public final class Zabbet implements Runnable {
    private static final int COULD_NOT = 2;
    private static final Map<String, Supplier<Object>> COMMANDS = new LinkedHashMap<>();

    static {
        COMMANDS.put("demo", DemoCommand::new);
        COMMANDS.put("schema", SchemaCommand::new);
        COMMANDS.put("validate", ValidateCommand::new);
        COMMANDS.put("load", LoadCommand::new);
        COMMANDS.put("add", AddCommand::new);
        COMMANDS.put("look", LookCommand::new);
        COMMANDS.put("extract", ExtractCommand::new);
        COMMANDS.put("verify", VerifyCommand::new);
        COMMANDS.put("run", RunCommand::new);
        COMMANDS.put("serve", ServeCommand::new);
        COMMANDS.put("tests", TestsCommand::new);
        COMMANDS.put("clear", ClearCommand::new);
        COMMANDS.put("dedicate", DedicateCommand::new);
        COMMANDS.put("completion", CompletionCommand::new);
    }

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    private Zabbet() {}

    /** Runs the command and ends the process with its exit status. */
    public static void main(String[] arguments) {
        System.setProperty("java.util.logging.SimpleFormatter.format", "zabbet: %5$s%n"); // what the library logs
        PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
        PrintStream err = new PrintStream(new WithoutSecrets(System.err), true, StandardCharsets.UTF_8);
        System.exit(run(out, err, arguments));
    }

    /** Runs the command and returns its exit status. */
    static int run(PrintStream out, PrintStream err, String... arguments) {
        if (arguments.length == 1 && arguments[0].equals("--version")) {
            out.println(version());
            return 0;
        }
        CommandLine command = new CommandLine(new Zabbet());
        String first = arguments.length == 0 ? "" : arguments[0];
        if (first.equals("help")) {
            if (arguments.length == 1) {
                return run(out, err, "--help");
            }
            return COMMANDS.containsKey(arguments[1])
                    ? run(out, err, arguments[1], "--help")
                    : run(out, err, arguments[1]);
        }
        if (!first.isEmpty() && !first.startsWith("-") && !COMMANDS.containsKey(first)) {
            err.println("zabbet: " + new UnknownNameException("command", first, COMMANDS.keySet()).getMessage());
            return COULD_NOT;
        }
        boolean one = COMMANDS.containsKey(first) && !first.equals("completion"); // which is about all
        COMMANDS.forEach((name, made) -> {
            if (!one || name.equals(first)) {
                command.addSubcommand(name, made.get()); // reading what others take would only cost time
            }
        });
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
                spec.commandLine(), "Which command? Known: " + String.join(", ", COMMANDS.keySet()) + ".");
    }

    /** Reads the version that the build wrote down. */
    private static String version() {
        Properties properties = new Properties();
        try (InputStream in = Zabbet.class.getResourceAsStream("version.properties")) {
            properties.load(in);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return "zabbet " + properties.getProperty("version") + " (Java "
                + Runtime.version().feature() + ")";
    }

    /** Gives the version to the command line. */
    static final class Version implements IVersionProvider {
        @Override
        public String[] getVersion() {
            return new String[] {version()};
        }
    }
}

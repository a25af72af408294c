package dev.zabbet.cli;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.jdbc.Databases;
import dev.zabbet.serve.ServeSettings;
import dev.zabbet.serve.StageServer;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Offers stages over HTTP. */
@Command(
        name = "serve",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Offers stages over HTTP and JSON, on this machine only, for tests in any language: rows loaded, acts watched,"
                    + " expectations checked, all brought back. Runs until it is interrupted, or the program that started it"
                    + " ends; then every database is as it was.",
            "",
            "Example: zabbet serve --db jdbc:postgresql://localhost/huts_test --script huts.sql --json",
            ""
        })
final class ServeCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Option(
            names = "--script",
            paramLabel = "FILE",
            description =
                    "The SQL that makes the tables: each stage gets a database of its own, made beside the one of --db when it"
                            + " is needed. Without it, stages take turns on that one.")
    private @Nullable String script;

    @Option(names = "--port", paramLabel = "N", description = "The port on 127.0.0.1; without it, one that is free.")
    private int port;

    @Option(
            names = "--stages",
            paramLabel = "N",
            description = "Refuses to have more stages open at a time; without it, 16.")
    private @Nullable Integer stages;

    @Option(
            names = "--idle",
            paramLabel = "SECONDS",
            description = "Rewinds and closes a stage of which nothing was asked for so long; without it, 600.")
    private @Nullable Integer idle;

    @Option(names = "--openapi", description = "Prints the OpenAPI document of what the server does, and starts none.")
    private boolean describe;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        if (describe) {
            spec.commandLine().getOut().print(StageServer.openApi());
            spec.commandLine().getOut().flush();
            return;
        }
        String given = Optional.ofNullable(System.getenv("ZABBET_TOKEN")).orElse("");
        StageServer server = start(settings(given));
        ProcessEnd.then(server::close);
        tell(server, given.isEmpty());
        try {
            new CountDownLatch(1).await(); // until the process ends
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private ServeSettings settings(String given) {
        ServeSettings settings = ServeSettings.usual().onPort(port);
        if (stages != null) {
            settings = settings.withStages(stages);
        }
        if (idle != null) {
            settings = settings.closingAfter(Duration.ofSeconds(idle));
        }
        try {
            return given.isEmpty() ? settings : settings.withToken(given);
        } catch (ZabbetException e) {
            throw new ZabbetException("ZABBET_TOKEN cannot be used. " + e.getMessage(), e);
        }
    }

    private StageServer start(ServeSettings settings) {
        String own = script;
        if (own != null && database.hasDriver()) {
            throw new ZabbetException(
                    "--driver does not go together with --script: databases are made by the drivers inside.");
        }
        return own == null
                ? StageServer.inTurns(database.dataSource(), told(), settings)
                : StageServer.sideBySide(
                        Databases.beside(
                                database.chosenUrl(), database.user(), database.password(), own, ServeCommand.class),
                        database::dataSource,
                        settings);
    }

    /** Returns the URL that clients are told: of a server with nothing installed the one that it has got. */
    private String told() {
        String chosen = database.chosenUrl();
        if (chosen.startsWith("jdbc:")) {
            return chosen;
        }
        try (Connection connection = database.dataSource().getConnection()) {
            return connection.getMetaData().getURL();
        } catch (SQLException e) {
            throw new ZabbetException("The database cannot be opened: " + e.getMessage(), e);
        }
    }

    private void tell(StageServer server, boolean made) {
        Terminal paper = new Terminal(spec.commandLine().getOut());
        if (output.isJson()) {
            Map<String, Object> started = new LinkedHashMap<>();
            started.put("url", server.url());
            if (made) {
                started.put("token", server.token());
            }
            paper.line(JsonTree.compact(started));
            return;
        }
        paper.heading("Stages are served at " + server.url());
        paper.line("  token   " + (made ? server.token() : "that of ZABBET_TOKEN"));
        paper.line("  stages  " + (script == null ? "in turns on one database" : "a database each, made by " + script));
        paper.blank();
        paper.line("Ask it: curl -H \"Authorization: Bearer " + (made ? server.token() : "$ZABBET_TOKEN") + "\" "
                + server.url() + "/openapi.json");
        paper.line("It ends with Ctrl+C, or with the program that started it.");
    }
}

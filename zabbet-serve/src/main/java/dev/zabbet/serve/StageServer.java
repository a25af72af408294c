package dev.zabbet.serve;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.Databases;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.serve.internal.Gate;
import dev.zabbet.serve.internal.OpenedStage;
import dev.zabbet.serve.internal.ProblemHandler;
import dev.zabbet.serve.internal.ServedDocument;
import dev.zabbet.serve.internal.ServedStages;
import dev.zabbet.serve.internal.StageHandler;
import dev.zabbet.serve.internal.StageOpener;
import java.io.IOException;
import java.util.Objects;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import javax.sql.DataSource;
import org.eclipse.jetty.server.HttpConfiguration;
import org.eclipse.jetty.server.HttpConnectionFactory;
import org.eclipse.jetty.server.Server;
import org.eclipse.jetty.server.ServerConnector;
import org.eclipse.jetty.util.thread.QueuedThreadPool;

/**
 * Offers stages over HTTP and JSON, for tests in any language: on the loopback only, and only to whoever has the token. The server
 * describes itself at {@code /openapi.json}. Each stage has a database, and rewinds it when it is closed.
 *
 * <p>Thread-safe.
 */
public final class StageServer implements AutoCloseable {
    private static final String LOOPBACK = "127.0.0.1";
    private static final int HEADER_BYTES = 8 * 1024;
    private static final int THREADS = 64;
    private static final long IDLE_CONNECTION_MILLIS = 60_000;

    private final ServeSettings settings;
    private final ServedStages stages;
    private final Server server;
    private final ServerConnector connector;

    private StageServer(StageOpener opener, ServeSettings settings) {
        this.settings = settings;
        this.stages = new ServedStages(opener, settings);
        QueuedThreadPool threads = new QueuedThreadPool(THREADS);
        threads.setName("zabbet-serve");
        threads.setDaemon(true);
        server = new Server(threads);
        HttpConfiguration http = new HttpConfiguration();
        http.setSendServerVersion(false);
        http.setSendDateHeader(false);
        http.setRequestHeaderSize(HEADER_BYTES);
        connector = new ServerConnector(server, new HttpConnectionFactory(http));
        connector.setHost(LOOPBACK);
        connector.setPort(settings.port());
        connector.setIdleTimeout(IDLE_CONNECTION_MILLIS);
        server.addConnector(connector);
        server.setErrorHandler(new ProblemHandler());
        server.setHandler(new StageHandler(new Gate(settings.token()), stages, settings));
    }

    /**
     * Starts a server whose stages take turns on one database: who opens a stage waits until the one before is closed.
     *
     * @param dataSource the database, which has to be dedicated to tests
     * @param url how the application reaches the database, told to clients
     * @param settings how the server is run
     * @return the server, to be closed by the caller
     * @throws ZabbetException if the port is taken
     */
    public static StageServer inTurns(DataSource dataSource, String url, ServeSettings settings) {
        Words.notNull(dataSource, "dataSource", "StageServer.inTurns");
        Words.notNull(url, "url", "StageServer.inTurns");
        return start(StageOpener.one(() -> new OpenedStage(Jdbc.stage(dataSource), url)), settings);
    }

    /**
     * Starts a server whose stages have a database each, so that tests can run beside each other.
     *
     * @param databases the databases
     * @param opening makes a {@code DataSource} for a database's JDBC URL, which is told to clients
     * @param settings how the server is run
     * @return the server, to be closed by the caller
     * @throws ZabbetException if the port is taken
     */
    public static StageServer sideBySide(
            Databases databases, Function<? super String, ? extends DataSource> opening, ServeSettings settings) {
        Words.notNull(databases, "databases", "StageServer.sideBySide");
        Words.notNull(opening, "opening", "StageServer.sideBySide");
        return start(
                StageOpener.many(() -> {
                    AtomicReference<String> place = new AtomicReference<>("");
                    Stage stage = databases
                            .opening(url -> {
                                place.set(url);
                                return opening.apply(url);
                            })
                            .stage();
                    return new OpenedStage(stage, Objects.requireNonNull(place.get()));
                }),
                settings);
    }

    private static StageServer start(StageOpener opener, ServeSettings settings) {
        StageServer started = new StageServer(opener, Words.notNull(settings, "settings", "StageServer"));
        try {
            started.server.start();
        } catch (IOException e) {
            started.stop();
            throw new ZabbetException(
                    "Port " + settings.port() + " on " + LOOPBACK + " cannot be had: " + e.getMessage()
                            + ". Take another by --port, or 0 for any that is free.",
                    e);
        } catch (Exception e) {
            started.stop();
            throw new ZabbetException("The server cannot be started: " + e.getMessage(), e);
        }
        return started;
    }

    /**
     * {@return the document that describes what the server does, as JSON} It is the one that it serves.
     */
    public static String openApi() {
        return ServedDocument.json();
    }

    /** {@return where the server is: {@code http://127.0.0.1:PORT}} */
    public String url() {
        return "http://" + LOOPBACK + ":" + connector.getLocalPort();
    }

    /** {@return what each request has to carry, as {@code Authorization: Bearer TOKEN}} */
    public String token() {
        return settings.token();
    }

    /** Takes no more requests, and rewinds and closes all stages. */
    @Override
    public void close() {
        stages.close();
        stop();
    }

    private void stop() {
        try {
            server.stop();
        } catch (Exception e) {
            throw new ZabbetException("The server cannot be stopped: " + e.getMessage(), e);
        }
    }
}

package dev.zabbet.jdbc.internal.server;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;

/** The programs of one kind of server: where they come from, and how they are run. Immutable. */
interface Programs {
    /** Returns the word that names the kind: {@code postgres}. */
    String word();

    /** Returns the name that people know it by. */
    String name();

    /** Finds the jar that has the programs for a machine; empty if the class path has none. */
    Optional<ServerJar> find(Platform platform);

    /** Returns the coordinates of the jar to add for a machine; empty if there is none. */
    Optional<String> coordinates(Platform platform);

    /** Unpacks the programs into a folder that is there and empty. */
    void unpack(ServerJar jar, Path home) throws IOException;

    /**
     * Makes what a new server begins with.
     *
     * @param home the folder that the programs were unpacked into
     * @param data a folder that is there and empty, and belongs to whom the server runs as
     */
    void prepare(Path home, Path data, RunAs as, String password) throws IOException, InterruptedException;

    /** Returns the command that runs the server. */
    List<String> start(Path home, Path data, int port, List<String> settings);

    /** Returns the command that stops it; empty if it is enough to end its process. */
    List<String> stop(Path home, Path data);

    /** Returns the JDBC URL of a database. */
    String url(int port, String database, String password);

    /** Returns the database that is there from the beginning. */
    String firstDatabase();
}

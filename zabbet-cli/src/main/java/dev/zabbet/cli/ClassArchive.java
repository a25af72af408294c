package dev.zabbet.cli;

import java.io.IOException;
import java.io.OutputStream;
import java.io.PrintStream;
import java.net.URISyntaxException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Enumeration;
import java.util.List;
import java.util.jar.JarEntry;
import java.util.jar.JarFile;
import java.util.stream.Stream;

/**
 * Uses much of what commands use, so that the Java machine writes it down at its end: {@code -XX:ArchiveClassesAtExit}. Commands then
 * start from that.
 */
final class ClassArchive {
    private static final String TABLES =
            "CREATE TABLE IF NOT EXISTS hut (id INT PRIMARY KEY, name VARCHAR(20) UNIQUE)\\;"
                    + " CREATE TABLE IF NOT EXISTS guest (id INT PRIMARY KEY, full_name VARCHAR(40), email VARCHAR(40), born DATE)\\;"
                    + " CREATE TABLE IF NOT EXISTS stay (hut_id INT REFERENCES hut, guest_id INT REFERENCES guest, nights INT,"
                    + " PRIMARY KEY (hut_id, guest_id))";
    private static final String ROWS = """
            tables:
              hut: [{id: 1, name: Edelgrat}]
              guest: [{id: 1, full_name: Ada Brunner, email: ada@huts.example, born: 1999-12-31}]
              stay: [{hut_id: 1, guest_id: 1, nights: 2}]
            """;
    /** Whose classes are loaded without being used. */
    private static final List<String> WHOLE =
            List.of("dev/zabbet/", "org/postgresql/", "org/mariadb/jdbc/", "org/sqlite/");

    private ClassArchive() {}

    /** Takes no arguments. */
    public static void main(String[] arguments) throws IOException, URISyntaxException {
        Path folder = Files.createTempDirectory("zabbet");
        try {
            use(folder);
            load();
        } finally {
            try (Stream<Path> files = Files.list(folder)) {
                for (Path file : files.toList()) {
                    Files.delete(file);
                }
            }
            Files.delete(folder);
        }
    }

    private static void use(Path folder) throws IOException {
        String url = "jdbc:h2:mem:first;DB_CLOSE_DELAY=-1;INIT=" + TABLES;
        String rows = Files.writeString(folder.resolve("rows.yaml"), ROWS).toString();
        String secret = Files.writeString(folder.resolve("secret"), "0123456789abcdef0123456789abcdef")
                .toString();
        String taken = folder.resolve("taken.yaml").toString();
        run("load", rows, "--db", url);
        run("look", "guest", "--where", "born<2020-01-01", "--order", "-id", "--db", url);
        run("schema", "--db", url);
        run("extract", "guest=all", "--below", "stay", "--secret-file", secret, "--out", taken, "--db", url);
        run("validate", taken, "--db", url);
    }

    private static void run(String... arguments) {
        PrintStream nowhere = new PrintStream(OutputStream.nullOutputStream(), true, StandardCharsets.UTF_8);
        Zabbet.run(nowhere, nowhere, arguments);
    }

    private static void load() throws IOException, URISyntaxException {
        Path own = Path.of(ClassArchive.class
                .getProtectionDomain()
                .getCodeSource()
                .getLocation()
                .toURI());
        if (!Files.isRegularFile(own)) {
            return; // not a jar
        }
        try (JarFile jar = new JarFile(own.toFile())) {
            for (Enumeration<JarEntry> entries = jar.entries(); entries.hasMoreElements(); ) {
                String name = entries.nextElement().getName();
                if (name.endsWith(".class") && WHOLE.stream().anyMatch(name::startsWith)) {
                    load(name.substring(0, name.length() - ".class".length()).replace('/', '.'));
                }
            }
        }
    }

    private static void load(String name) {
        try {
            Class.forName(name, false, ClassArchive.class.getClassLoader());
        } catch (ClassNotFoundException | LinkageError e) {
            // belongs to something that is not here
        }
    }
}

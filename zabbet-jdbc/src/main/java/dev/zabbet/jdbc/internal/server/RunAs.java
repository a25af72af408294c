package dev.zabbet.jdbc.internal.server;

import dev.zabbet.error.ZabbetException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Whom servers run as: the user of this process, or for root, whom servers refuse, {@code nobody}.
 *
 * @param user the other user; null for the one of this process
 * @param before what comes before a command so that the other user runs it
 */
record RunAs(@Nullable String user, List<String> before) {

    static RunAs here() {
        if (Platform.here().isWindows() || !"root".equals(System.getProperty("user.name"))) {
            return new RunAs(null, List.of());
        }
        String group = group();
        if (isThere("setpriv")) {
            return new RunAs("nobody", List.of("setpriv", "--reuid=nobody", "--regid=" + group, "--clear-groups"));
        }
        if (isThere("chroot")) {
            return new RunAs("nobody", List.of("chroot", "--userspec=nobody:" + group, "/"));
        }
        throw new ZabbetException("Servers do not run as root, and neither setpriv nor chroot is there to run them as"
                + " nobody. Run the tests as another user.");
    }

    /** Tells whether it is another user than that of this process. */
    boolean isOther() {
        return user != null;
    }

    private static boolean isThere(String program) {
        return Stream.of(System.getenv().getOrDefault("PATH", "").split(":"))
                .anyMatch(folder -> Files.isExecutable(Path.of(folder.isEmpty() ? "." : folder, program)));
    }

    /** The group of nobody has one name here, another there. */
    private static String group() {
        try {
            return Files.readAllLines(Path.of("/etc/group")).stream().anyMatch(line -> line.startsWith("nogroup:"))
                    ? "nogroup"
                    : "nobody";
        } catch (IOException e) {
            return "nobody";
        }
    }

    List<String> command(List<String> command) {
        List<String> all = new ArrayList<>(before);
        all.addAll(command);
        return all;
    }

    /** Makes a file or folder the other user's. */
    void give(Path file) throws IOException {
        if (user != null) {
            Files.setOwner(
                    file, file.getFileSystem().getUserPrincipalLookupService().lookupPrincipalByName(user));
        }
    }

    /** Runs a command to its end. */
    void run(Path log, String... command) throws IOException, InterruptedException {
        run(log, null, command);
    }

    /**
     * Runs a command to its end.
     *
     * @param log where its output goes
     * @param input what it reads; null for nothing
     * @throws IOException if it fails; the message ends with what it said
     */
    void run(Path log, @Nullable Path input, String... command) throws IOException, InterruptedException {
        ProcessBuilder builder = new ProcessBuilder(command(List.of(command)))
                .redirectErrorStream(true)
                .redirectOutput(log.toFile());
        if (input != null) {
            builder.redirectInput(input.toFile());
        }
        Process process = builder.start();
        if (!process.waitFor(120, TimeUnit.SECONDS)) {
            process.destroyForcibly();
            throw new IOException(Path.of(command[0]).getFileName() + " did not end in two minutes");
        }
        if (process.exitValue() != 0) {
            throw new IOException(Path.of(command[0]).getFileName() + " failed:\n" + end(log));
        }
    }

    /** Returns the last lines of a log; nothing if it cannot be read. */
    static String end(Path log) {
        List<String> lines;
        try {
            lines = Files.readAllLines(log, java.nio.charset.StandardCharsets.ISO_8859_1);
        } catch (IOException e) {
            return "";
        }
        return String.join("\n", lines.subList(Math.max(0, lines.size() - 8), lines.size()));
    }
}

package dev.zabbet.files.internal.suite;

import com.fasterxml.jackson.core.JsonProcessingException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.internal.text.Words;
import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.AtomicMoveNotSupportedException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The folder in which the processes of a run write down what their tests did, one after the other: {@code tests.json} is the last
 * run, {@code before.json} the one before, {@code counterproof.json} the last counterproof, and {@code index.html} shows them.
 * Whatever goes wrong, each file is whole.
 */
public final class SuiteFolder {
    static final String TESTS = "tests.json";
    static final String BEFORE = "before.json";
    static final String COUNTERPROOF = "counterproof.json";
    static final String PAGE = "index.html";
    private static final String LOCK = "lock";

    private final Path folder;

    public SuiteFolder(Path folder) {
        this.folder = folder;
    }

    /**
     * Returns the folder of the project that a process runs in: {@code target/zabbet}, or {@code build/zabbet} with Gradle, of the
     * outermost project around the working directory. Empty where no build file stands.
     */
    public static Optional<Path> ofProject(Path workingDirectory) {
        Path outermost = null;
        String build = "target";
        for (Path at = workingDirectory.toAbsolutePath().normalize(); at != null; at = at.getParent()) {
            boolean maven = Files.exists(at.resolve("pom.xml"));
            boolean gradle = Stream.of("settings.gradle", "settings.gradle.kts", "build.gradle", "build.gradle.kts")
                    .map(at::resolve)
                    .anyMatch(Files::exists);
            if (!maven && !gradle) {
                break;
            }
            outermost = at;
            build = maven ? "target" : "build";
        }
        return outermost == null
                ? Optional.empty()
                : Optional.of(outermost.resolve(build).resolve("zabbet"));
    }

    /**
     * Reads a list of tests that are known to be hollow: one a line, {@code dev.huts.StayDeskTest#cancels}. What follows the name,
     * and lines that begin with #, are remarks.
     *
     * @throws ZabbetException if the file cannot be read
     */
    public static Set<String> knownHollow(Path file) {
        try {
            return Files.readAllLines(file, StandardCharsets.UTF_8).stream()
                    .map(String::strip)
                    .filter(line -> !line.isEmpty() && !line.startsWith("#"))
                    .map(line -> line.split("\\s", 2)[0])
                    .collect(Collectors.toSet());
        } catch (IOException e) {
            throw new ZabbetException(
                    "The file of tests that are known to be hollow, " + file.toAbsolutePath() + ", cannot be read: "
                            + e,
                    e);
        }
    }

    /** Returns where the page is. */
    public Path page() {
        return folder.resolve(PAGE);
    }

    /**
     * Adds what a process knows of its tests to what others of the same run have written.
     *
     * @param part the run as this process knows it
     * @return the run as it is known now
     * @throws IOException if the folder cannot be written
     */
    public SuiteRun add(SuiteRun part) throws IOException {
        Files.createDirectories(folder);
        try (FileChannel channel =
                        FileChannel.open(folder.resolve(LOCK), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
                FileLock held = channel.lock()) {
            Path file = folder.resolve(part.isCounterproof() ? COUNTERPROOF : TESTS);
            for (String name : List.of(TESTS, BEFORE, COUNTERPROOF)) {
                deleteBroken(folder.resolve(name));
            }
            SuiteRun known = held.isValid() ? readIfThere(file).orElse(null) : null;
            SuiteRun now = part;
            if (known != null && known.isContinuedBy(part)) {
                now = known.with(part);
            } else if (known != null && !part.isCounterproof()) {
                Files.move(file, folder.resolve(BEFORE), StandardCopyOption.REPLACE_EXISTING);
            }
            write(file, JsonTree.write(now.tree()));
            write(page(), SuitePage.of(report()));
            return now;
        }
    }

    /** Returns what the last line of a process says of its tests: empty if nothing is to be done about them. */
    public Optional<String> line(SuiteRun run) {
        Optional<SuiteRun> none = Optional.empty();
        List<String> found = new ArrayList<>();
        if (run.isCounterproof()) {
            long hollow = new SuiteReport(none, none, Optional.of(run))
                    .hollow().stream().map(SuiteTest::test).distinct().count();
            found.add(hollow == 0 ? "no test is hollow" : Words.count(hollow, "hollow test"));
        } else {
            SuiteReport report = new SuiteReport(Optional.of(run), none, none);
            long unseen = report.unseen().stream()
                    .filter(one -> one.anywhere() == Seen.UNSEEN)
                    .count();
            int loose = report.loose().size();
            if (unseen > 0) {
                found.add(Words.count(unseen, "value") + " that no test looks at");
            }
            if (loose > 0) {
                found.add(Words.count(loose, "loose end"));
            }
        }
        return found.isEmpty()
                ? Optional.empty()
                : Optional.of("Zabbet: " + Words.count(run.tests().size(), "test")
                        + (run.isCounterproof() ? " as a counterproof" : "") + ", "
                        + String.join(", ", found) + ". See " + page());
    }

    /**
     * Reads what is known.
     *
     * @throws ZabbetException if nothing was written, or a file holds something else
     */
    public SuiteReport read() {
        if (!Files.exists(folder.resolve(TESTS)) && !Files.exists(folder.resolve(COUNTERPROOF))) {
            throw new ZabbetException("No tests have been written down in " + folder
                    + ". Run tests that use @Staged or @EveryStage first, or name the folder of those that ran.");
        }
        try {
            return report();
        } catch (IOException e) {
            throw new ZabbetException("What tests have written down in " + folder + " cannot be read: " + e, e);
        }
    }

    /** What somebody else has spoilt would be in the way for ever. */
    private static void deleteBroken(Path file) throws IOException {
        try {
            readIfThere(file);
        } catch (JsonProcessingException | CharacterCodingException e) {
            Files.delete(file);
        }
    }

    private SuiteReport report() throws IOException {
        return new SuiteReport(
                readIfThere(folder.resolve(TESTS)),
                readIfThere(folder.resolve(BEFORE)),
                readIfThere(folder.resolve(COUNTERPROOF)));
    }

    private static Optional<SuiteRun> readIfThere(Path file) throws IOException {
        if (!Files.exists(file)) {
            return Optional.empty();
        }
        return SuiteRun.of(JsonTree.read(Files.readString(file)));
    }

    private void write(Path file, String text) throws IOException {
        Path beside = folder.resolve(file.getFileName() + ".new");
        Files.writeString(beside, text, StandardCharsets.UTF_8);
        try {
            Files.move(beside, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (AtomicMoveNotSupportedException e) {
            Files.move(beside, file, StandardCopyOption.REPLACE_EXISTING);
        }
    }
}

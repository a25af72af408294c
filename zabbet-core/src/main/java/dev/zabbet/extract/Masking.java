package dev.zabbet.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.ColumnPattern;
import dev.zabbet.internal.text.Words;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Optional;

/**
 * What becomes of personal values in an extract. By default each column that looks personal, by its name or by what it holds, gets
 * other values of the same shape. The same value always becomes the same other one, in all columns, extracts and databases, as long
 * as the secret is the same; without the secret it cannot be worked back. Immutable and thread-safe.
 */
public final class Masking {
    /** The environment's variable that may hold the secret. */
    public static final String VARIABLE = "ZABBET_MASK_SECRET";

    private static final int SHORTEST_SECRET = 16;

    private final byte[] secret;
    private final String unmasked;
    private final boolean keepsDomains;
    private final List<String> kept;
    private final List<String> masked;

    private Masking(byte[] secret, String unmasked, boolean keepsDomains, List<String> kept, List<String> masked) {
        this.secret = secret;
        this.unmasked = unmasked;
        this.keepsDomains = keepsDomains;
        this.kept = List.copyOf(kept);
        this.masked = List.copyOf(masked);
    }

    /**
     * {@return masking with the secret of the environment's {@code ZABBET_MASK_SECRET}, or else of the file {@code
     * .zabbet/mask-secret} in the user's home, which is made when it is first needed}
     *
     * @throws ZabbetException if the file cannot be read or made
     */
    public static Masking standard() {
        String said = Optional.ofNullable(System.getenv(VARIABLE)).orElse("");
        return said.isEmpty() ? withSecretOf(standardFile()) : withSecret(said);
    }

    /** {@return the file that holds the secret where the environment does not} */
    public static Path standardFile() {
        return Path.of(System.getProperty("user.home"), ".zabbet", "mask-secret");
    }

    /**
     * {@return masking with a secret}
     *
     * @param secret the secret, at least 16 characters; whoever has it can find out what a short value was by trying
     */
    public static Masking withSecret(String secret) {
        String said = Words.notNull(secret, "secret", "Masking.withSecret").strip();
        if (said.length() < SHORTEST_SECRET) {
            throw new ZabbetException("The secret for masking has " + said.length() + " characters, and at least "
                    + SHORTEST_SECRET + " are needed; short ones are found by trying.");
        }
        return new Masking(said.getBytes(StandardCharsets.UTF_8), "", false, List.of(), List.of());
    }

    /**
     * {@return masking with the secret in a file, which is made, readable by its owner only, if it is not there}
     *
     * @param file the file
     * @throws ZabbetException if it cannot be read or made, or is too short
     */
    public static Masking withSecretOf(Path file) {
        try {
            if (!Files.exists(file)) {
                make(file);
            }
            return withSecret(Files.readString(file));
        } catch (IOException e) {
            throw new ZabbetException(
                    "The secret for masking cannot be read from '" + file + "': " + e + ". Set " + VARIABLE
                            + ", or name another file.",
                    e);
        }
    }

    private static void make(Path file) throws IOException {
        byte[] random = new byte[32];
        new SecureRandom().nextBytes(random);
        Path folder = file.toAbsolutePath().getParent();
        if (folder != null) {
            Files.createDirectories(folder);
        }
        Path beside = file.resolveSibling(file.getFileName() + "."
                + ProcessHandle.current().pid() + "-" + Thread.currentThread().getId());
        try {
            if (file.getFileSystem().supportedFileAttributeViews().contains("posix")) {
                Files.createFile(
                        beside, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            }
            Files.writeString(beside, Base64.getEncoder().encodeToString(random) + "\n");
            Files.createLink(file, beside); // whole, and not over one that is there
        } catch (FileAlreadyExistsException e) {
            // another process was quicker; its secret counts
        } catch (UnsupportedOperationException e) {
            Files.move(beside, file);
        } finally {
            Files.deleteIfExists(beside);
        }
    }

    /**
     * {@return no masking at all: values are written as they are}
     *
     * @param database the database's own name, so that nobody does this with one that was not meant
     */
    public static Masking unmasked(String database) {
        return new Masking(
                new byte[SHORTEST_SECRET],
                Words.notNull(database, "database", "Masking.unmasked"),
                false,
                List.of(),
                List.of());
    }

    /**
     * {@return this masking, but for columns whose values stay as they are, whatever they look like}
     *
     * @param columns columns with their tables: {@code "hut.name"}, {@code "*.city"}, {@code "guest.profile.size"} inside of JSON
     */
    public Masking keep(String... columns) {
        return new Masking(secret, unmasked, keepsDomains, plus(kept, columns), masked);
    }

    /**
     * {@return this masking, with columns that are masked whatever they look like}
     *
     * @param columns columns with their tables, as for {@link #keep}
     */
    public Masking mask(String... columns) {
        return new Masking(secret, unmasked, keepsDomains, kept, plus(masked, columns));
    }

    private static List<String> plus(List<String> columns, String... more) {
        List<String> all = new ArrayList<>(columns);
        for (String column : more) {
            all.add(Extract.requireColumn(Words.notNull(column, "column", "Masking")));
        }
        return all;
    }

    /** {@return this masking, with domains of E-mail addresses as they are; mail to them reaches somebody} */
    public Masking keepDomains() {
        return new Masking(secret, unmasked, true, kept, masked);
    }

    /** {@return whether values are written as they are} */
    public boolean isOff() {
        return !unmasked.isEmpty();
    }

    /** {@return the name of the database that may be written as it is; empty if masking is on} */
    public String unmasked() {
        return unmasked;
    }

    /** {@return whether domains of E-mail addresses stay} */
    public boolean keepsDomains() {
        return keepsDomains;
    }

    /**
     * {@return whether a column was said to stay as it is}
     *
     * @param column the column with its table, and its path inside of a document
     */
    public boolean keeps(String column) {
        return kept.stream().anyMatch(pattern -> ColumnPattern.matches(pattern, column));
    }

    /**
     * {@return whether a column was said to be masked}
     *
     * @param column the column with its table, and its path inside of a document
     */
    public boolean masks(String column) {
        return masked.stream().anyMatch(pattern -> ColumnPattern.matches(pattern, column));
    }

    /** {@return the columns that something was said of, as they were written} */
    public List<String> named() {
        List<String> all = new ArrayList<>(kept);
        all.addAll(masked);
        return all;
    }

    /** {@return the secret; it is never shown} */
    public byte[] secret() {
        return secret.clone();
    }

    @Override
    public String toString() {
        return isOff() ? "no masking" : "masking";
    }
}

package dev.zabbet.jdbc.internal.server;

import dev.zabbet.error.ZabbetException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/** The folder of this machine's user in which programs and servers lie. All of it may be deleted at any time. */
final class CacheFolder {
    private CacheFolder() {}

    /**
     * Returns the folder, which is there and can be written.
     *
     * @throws ZabbetException if it cannot
     */
    static Path require(RunAs as) {
        String said = System.getProperty("zabbet.cache", System.getenv().getOrDefault("ZABBET_CACHE", ""));
        Path folder = said.isBlank() ? usual(as) : Path.of(said).toAbsolutePath();
        try {
            Files.createDirectories(folder);
            Files.delete(Files.createTempFile(folder, "writable", ""));
            return folder;
        } catch (IOException e) {
            throw new ZabbetException("Servers are unpacked into " + folder + ", which cannot be written: " + reason(e)
                    + ". Name another folder: -Dzabbet.cache=FOLDER, or ZABBET_CACHE in the environment.");
        }
    }

    /** What root has at home nobody else reads, and servers do not run as root. */
    private static Path usual(RunAs as) {
        if (as.isOther()) {
            return Path.of("/var/cache/zabbet");
        }
        Path home = Path.of(System.getProperty("user.home"));
        return switch (Platform.here().system()) {
            case "darwin" -> home.resolve("Library/Caches/zabbet");
            case "windows" ->
                Path.of(System.getenv()
                                .getOrDefault(
                                        "LOCALAPPDATA",
                                        home.resolve("AppData/Local").toString()))
                        .resolve("zabbet");
            default -> {
                String caches = System.getenv().getOrDefault("XDG_CACHE_HOME", "");
                yield (caches.isBlank() ? home.resolve(".cache") : Path.of(caches)).resolve("zabbet");
            }
        };
    }

    /** Says why a file could not be written. */
    static String reason(IOException e) {
        String said = String.valueOf(e.getMessage());
        if (e instanceof java.nio.file.AccessDeniedException) {
            return "access is denied (" + said + ")";
        }
        if (e instanceof java.nio.file.FileSystemException file && file.getReason() != null) {
            return file.getReason() + " (" + file.getFile() + ")";
        }
        if (e instanceof java.nio.file.NoSuchFileException) {
            return said + " cannot be made";
        }
        return e instanceof java.nio.file.FileAlreadyExistsException ? said + " is a file" : said;
    }

    /** Deletes a folder with all that is in it, if it is there. */
    static void delete(Path folder) throws IOException {
        if (!Files.exists(folder, java.nio.file.LinkOption.NOFOLLOW_LINKS)) {
            return;
        }
        try (Stream<Path> all = Files.walk(folder)) {
            List<Path> deepestFirst = all.sorted(Comparator.reverseOrder()).toList();
            for (Path file : deepestFirst) {
                Files.deleteIfExists(file);
            }
        }
    }
}

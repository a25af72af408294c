package dev.zabbet.jdbc.internal.server;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermission;
import java.util.Enumeration;
import java.util.HashSet;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.zip.ZipEntry;
import java.util.zip.ZipFile;
import org.apache.commons.compress.archivers.tar.TarArchiveEntry;
import org.apache.commons.compress.archivers.tar.TarArchiveInputStream;
import org.tukaani.xz.XZInputStream;

/** Unpacks programs. What would come to lie outside of the folder is refused. */
final class Unpacking {
    private Unpacking() {}

    /** Unpacks a tar archive that xz has compressed. */
    static void archive(InputStream compressed, Path folder) throws IOException {
        try (TarArchiveInputStream tar = new TarArchiveInputStream(
                new BufferedInputStream(new XZInputStream(new BufferedInputStream(compressed)), 1 << 16))) {
            for (TarArchiveEntry entry = tar.getNextEntry(); entry != null; entry = tar.getNextEntry()) {
                Path file = inside(folder, entry.getName());
                if (entry.isDirectory()) {
                    Files.createDirectories(file);
                } else if (entry.isSymbolicLink()) {
                    Files.createDirectories(parent(file));
                    inside(
                            folder,
                            folder.relativize(parent(file))
                                    .resolve(entry.getLinkName())
                                    .toString());
                    Files.createSymbolicLink(file, Path.of(entry.getLinkName()));
                } else if (entry.isFile()) {
                    write(tar, file, (entry.getMode() & 0100) != 0);
                }
            }
        }
    }

    /**
     * Copies files out of a jar.
     *
     * @param wanted what their names match; the first group is the folder that they come out of
     */
    static void jar(Path jar, String wanted, Path folder) throws IOException {
        Pattern pattern = Pattern.compile(wanted);
        try (ZipFile zip = new ZipFile(jar.toFile())) {
            for (Enumeration<? extends ZipEntry> all = zip.entries(); all.hasMoreElements(); ) {
                ZipEntry entry = all.nextElement();
                Matcher name = pattern.matcher(entry.getName());
                if (!entry.isDirectory() && name.matches()) {
                    Path file = inside(
                            folder, entry.getName().substring(name.group(1).length()));
                    try (InputStream in = zip.getInputStream(entry)) {
                        write(in, file, entry.getName().contains("/bin/"));
                    }
                }
            }
        }
    }

    private static Path parent(Path file) throws IOException {
        Path parent = file.getParent();
        if (parent == null) {
            throw new IOException(file + " has no folder");
        }
        return parent;
    }

    private static Path inside(Path folder, String name) throws IOException {
        Path file = folder.resolve(name).normalize();
        if (!file.startsWith(folder)) {
            throw new IOException("the archive has an entry outside of its folder: " + name);
        }
        return file;
    }

    private static void write(InputStream in, Path file, boolean program) throws IOException {
        Files.createDirectories(parent(file));
        Files.copy(in, file);
        if (program && Files.getFileStore(file).supportsFileAttributeView("posix")) {
            Set<PosixFilePermission> permissions = new HashSet<>(Files.getPosixFilePermissions(file));
            permissions.add(PosixFilePermission.OWNER_EXECUTE);
            permissions.add(PosixFilePermission.GROUP_EXECUTE);
            permissions.add(PosixFilePermission.OTHERS_EXECUTE);
            Files.setPosixFilePermissions(file, permissions);
        }
    }
}

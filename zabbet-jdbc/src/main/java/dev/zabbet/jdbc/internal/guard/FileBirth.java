package dev.zabbet.jdbc.internal.guard;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.nio.file.attribute.BasicFileAttributes;
import java.util.List;
import java.util.UUID;

/**
 * What tells a database file from a copy under the same path: the device and the inode (POSIX, sys/stat.h), or the moment
 * of its creation where the system has no such numbers, and the machine or container that it is on.
 */
public final class FileBirth {
    private static final List<Path> MACHINE = List.of(Path.of("/etc/machine-id"), Path.of("/etc/hostname"));

    private FileBirth() {}

    /** Returns the birth of a file; empty where it is not there, or on another machine. */
    public static String of(String file) {
        try {
            Path path = Path.of(file);
            BasicFileAttributes attributes = Files.readAttributes(path, BasicFileAttributes.class);
            Object key = attributes.fileKey();
            return (key == null ? "made " + attributes.creationTime() : key) + "@" + machine();
        } catch (IOException | InvalidPathException e) {
            return "";
        }
    }

    private static String machine() {
        StringBuilder machine = new StringBuilder();
        for (Path path : MACHINE) {
            try {
                machine.append(Files.readString(path).strip());
            } catch (IOException e) {
                // not every system has both
            }
        }
        for (String name : List.of("COMPUTERNAME", "HOSTNAME")) {
            if (machine.isEmpty()) {
                machine.append(System.getenv().getOrDefault(name, ""));
            }
        }
        return UUID.nameUUIDFromBytes(machine.toString().getBytes(StandardCharsets.UTF_8))
                .toString();
    }
}

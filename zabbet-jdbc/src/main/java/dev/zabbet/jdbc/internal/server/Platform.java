package dev.zabbet.jdbc.internal.server;

import java.util.Locale;

/**
 * The machine that a server has to run on.
 *
 * @param system {@code linux}, {@code darwin} or {@code windows}; another as Java calls it
 * @param processor {@code x86_64} or {@code arm_64}; another as Java calls it
 */
record Platform(String system, String processor) {

    static Platform here() {
        String system = System.getProperty("os.name").toLowerCase(Locale.ROOT);
        String processor = System.getProperty("os.arch").toLowerCase(Locale.ROOT);
        return new Platform(
                system.contains("linux")
                        ? "linux"
                        : system.contains("mac") ? "darwin" : system.contains("windows") ? "windows" : system,
                processor.equals("amd64") || processor.equals("x86_64")
                        ? "x86_64"
                        : processor.equals("aarch64") || processor.equals("arm64") ? "arm_64" : processor);
    }

    boolean isWindows() {
        return system.equals("windows");
    }

    @Override
    public String toString() {
        String name =
                switch (system) {
                    case "linux" -> "Linux";
                    case "darwin" -> "macOS";
                    case "windows" -> "Windows";
                    default -> system;
                };
        return name + " (" + processor + ")";
    }
}

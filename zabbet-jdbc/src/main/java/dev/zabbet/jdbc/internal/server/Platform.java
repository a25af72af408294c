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
        return new Platform(family(system), architecture(processor));
    }

    private static String family(String system) {
        if (system.contains("linux")) {
            return "linux";
        }
        if (system.contains("mac")) {
            return "darwin";
        }
        return system.contains("windows") ? "windows" : system;
    }

    private static String architecture(String processor) {
        return switch (processor) {
            case "amd64", "x86_64" -> "x86_64";
            case "aarch64", "arm64" -> "arm_64";
            default -> processor;
        };
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

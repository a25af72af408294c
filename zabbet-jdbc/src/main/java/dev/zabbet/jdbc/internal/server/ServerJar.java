package dev.zabbet.jdbc.internal.server;

import dev.zabbet.error.ZabbetException;
import java.io.File;
import java.io.IOException;
import java.net.JarURLConnection;
import java.net.URISyntaxException;
import java.net.URL;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Collections;
import java.util.LinkedHashSet;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.zip.ZipFile;

/**
 * A jar that holds a server's programs.
 *
 * @param version the server's version, as the jar's name has it
 */
record ServerJar(Path file, String version) {
    private static final Pattern VERSION = Pattern.compile("-(\\d+(?:\\.\\d+)+)[^/\\\\]*\\.jar$");

    /**
     * Finds the first jar that has an entry: of those that the property or variable {@code zabbet.binaries}
     * ({@code ZABBET_BINARIES}) lists, then of the class path.
     */
    static Optional<ServerJar> having(String entry) {
        Set<Path> jars = new LinkedHashSet<>();
        String named = Optional.ofNullable(System.getProperty("zabbet.binaries"))
                .or(() -> Optional.ofNullable(System.getenv("ZABBET_BINARIES")))
                .orElse("");
        for (String one : named.isBlank() ? new String[0] : named.split(Pattern.quote(File.pathSeparator))) {
            Path jar = Path.of(one.strip());
            if (!Files.isRegularFile(jar)) {
                throw new ZabbetException("zabbet.binaries names " + jar + ", and there is no such file.");
            }
            if (has(jar, entry)) {
                jars.add(jar);
            }
        }
        ClassLoader context = Thread.currentThread().getContextClassLoader();
        for (ClassLoader loader : context == null
                ? new ClassLoader[] {ServerJar.class.getClassLoader()}
                : new ClassLoader[] {context, ServerJar.class.getClassLoader()}) {
            try {
                for (URL found : Collections.list(loader.getResources(entry))) {
                    if (found.openConnection() instanceof JarURLConnection inJar) {
                        jars.add(Path.of(inJar.getJarFileURL().toURI()));
                    }
                }
            } catch (IOException | URISyntaxException e) {
                throw new ZabbetException("The class path cannot be searched for " + entry + ": " + e, e);
            }
        }
        return jars.stream().findFirst().map(jar -> new ServerJar(jar, versionOf(jar)));
    }

    private static boolean has(Path jar, String entry) {
        try (ZipFile zip = new ZipFile(jar.toFile())) {
            return zip.getEntry(entry) != null;
        } catch (IOException e) {
            throw new ZabbetException(jar + ", which zabbet.binaries names, cannot be read: " + e.getMessage(), e);
        }
    }

    private static String versionOf(Path jar) {
        Matcher version = VERSION.matcher(jar.getFileName().toString());
        return version.find() ? version.group(1) : "unnamed";
    }
}

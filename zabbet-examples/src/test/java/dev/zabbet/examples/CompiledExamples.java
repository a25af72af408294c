package dev.zabbet.examples;

import static org.junit.jupiter.api.Assertions.assertEquals;

import java.io.IOException;
import java.io.StringWriter;
import java.net.URI;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import javax.tools.JavaFileObject;
import javax.tools.SimpleJavaFileObject;
import javax.tools.ToolProvider;
import org.junit.platform.engine.DiscoverySelector;
import org.junit.platform.engine.discovery.DiscoverySelectors;
import org.junit.platform.testkit.engine.EngineTestKit;
import org.junit.platform.testkit.engine.Events;

/** Code of the documentation, compiled and run as a reader would. */
final class CompiledExamples {
    private CompiledExamples() {}

    static JavaFileObject source(String path, String code) {
        return new SimpleJavaFileObject(URI.create("string:///" + path), JavaFileObject.Kind.SOURCE) {
            @Override
            public CharSequence getCharContent(boolean ignoreEncodingErrors) {
                return code;
            }

            @Override
            public boolean isNameCompatible(String simpleName, Kind kind) {
                return true;
            }
        };
    }

    /** Compiles into a folder, whose other files are resources, without a message; then runs the tests among the classes. */
    static Events run(Path folder, List<JavaFileObject> sources) throws IOException {
        StringWriter messages = new StringWriter();
        List<String> options =
                List.of("-d", folder.toString(), "-cp", System.getProperty("java.class.path"), "-proc:none");
        ToolProvider.getSystemJavaCompiler()
                .getTask(messages, null, null, options, null, sources)
                .call();
        assertEquals("", messages.toString());
        ClassLoader before = Thread.currentThread().getContextClassLoader();
        try (URLClassLoader compiled = new URLClassLoader(
                        new URL[] {folder.toUri().toURL()}, CompiledExamples.class.getClassLoader());
                Stream<Path> files = Files.walk(folder)) {
            Thread.currentThread().setContextClassLoader(compiled);
            return EngineTestKit.engine("junit-jupiter")
                    .selectors(files.filter(file -> file.toString().endsWith(".class"))
                            .map(file -> folder.relativize(file).toString())
                            .map(name -> DiscoverySelectors.selectClass(
                                    compiled, name.replace(".class", "").replace('/', '.')))
                            .toArray(DiscoverySelector[]::new))
                    .execute()
                    .allEvents();
        } finally {
            Thread.currentThread().setContextClassLoader(before);
        }
    }
}

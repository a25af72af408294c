package dev.zabbet.examples.proof;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;
import static org.junit.platform.engine.discovery.DiscoverySelectors.selectClass;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.platform.engine.discovery.ClassSelector;
import org.junit.platform.testkit.engine.EngineTestKit;

/** The page that shows a suite, with thousands of tests, in a real browser. */
class SuitePageTest {
    private static final long MOST_BYTES = 5_000_000;

    @TempDir
    private Path folder;

    @AfterEach
    void forgetProperty() {
        System.clearProperty("zabbet.counterproof");
    }

    @Test
    void thePageShowsTheSuite() throws Exception {
        run(ThousandsCase.class, UnseenCase.class, LooseCase.class, HollowCase.class);
        System.setProperty("zabbet.counterproof", "true");
        run(HollowCase.class);
        Path page = folder.resolve("index.html");
        String html = Files.readString(page);
        assertTrue(Files.size(page) < MOST_BYTES, Files.size(page) + " bytes");
        assertFalse(
                Pattern.compile("(?i)(src|href)=[\"']?(https?:)?//")
                        .matcher(html)
                        .find(),
                "it needs nothing else");
        assertFalse(Files.exists(folder.resolve("before.json")), "the same run");

        String found = inBrowser(html, """
                out('ready', document.body.dataset.ready >= 3000);
                out('todo', document.querySelector('#tab-todo b').textContent > 40);
                out('hollow', document.querySelectorAll('#todo ul.changes').length >= 20);
                out('quiet', [...document.querySelectorAll('#todo b')].filter(b => b.textContent.includes('.quiet_')).length);
                out('list waits', document.querySelectorAll('details.test').length);
                document.querySelector('#tab-tests').click();
                out('hidden', document.querySelector('#todo').hidden + ' ' + document.querySelector('#tests').hidden);
                out('listed', document.querySelectorAll('details.test').length == document.body.dataset.ready);
                const filters = [...document.querySelectorAll('#filters button')];
                filters[1].click();
                out('failed', document.querySelector('#found').textContent.replace(/ of.*/, ''));
                filters[0].click();
                const search = document.querySelector('#search');
                search.value = 'ThousandsCase deletes 107';
                search.dispatchEvent(new Event('input'));
                out('found', document.querySelector('#found').textContent.replace(/ of.*/, ''));
                const row = [...document.querySelectorAll('details.test')].find(d => d.style.display != 'none');
                row.open = true;
                row.dispatchEvent(new Event('toggle'));
                out('story', /Arranged.*1 stay.*Act ThousandsCase.java:\\d+ left 1 removed.*Looked at.*did not hold/s
                    .test(row.textContent));
                out('failure', row.querySelector('pre').textContent.includes('stay holds 0 rows; 1 expected.'));
                document.querySelector('#tab-tests').dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight'}));
                out('by key', document.querySelector('#tab-tables').getAttribute('aria-selected'));
                out('unseen columns', document.querySelectorAll('.table li.unseen').length >= 25);
                out('never written', document.querySelector('.table li.never-written').title);
                document.querySelector('#todo a.line[data-test]').click();
                out('link', document.querySelector('#tests').hidden + ' ' + document.querySelectorAll('details[open]').length);
                document.body.style.width = '360px';
                out('narrow', document.documentElement.scrollWidth <= innerWidth);
                """);

        assertEquals("""
                ready: true
                todo: true
                hollow: true
                quiet: 25
                list waits: 0
                hidden: true false
                listed: true
                failed: 10
                found: 1
                story: true
                failure: true
                by key: true
                unseen columns: true
                never written: never written
                link: false 2
                narrow: true
                """, found);
    }

    private void run(Class<?>... tests) {
        EngineTestKit.engine("junit-jupiter")
                .configurationParameter("zabbet.tests", folder.toString())
                .selectors(Stream.of(tests).map(type -> selectClass(type)).toArray(ClassSelector[]::new))
                .execute();
    }

    /** Does something on the page, and returns the lines that it put out, errors of the page among them. */
    private String inBrowser(String html, String script) throws IOException, InterruptedException {
        String browser = System.getenv("ZABBET_TEST_BROWSER");
        assumeTrue(
                browser != null || Files.isExecutable(Path.of("/usr/bin/chromium")),
                "no browser: set ZABBET_TEST_BROWSER to a Chromium");
        Path page = folder.resolve("tried.html");
        Files.writeString(
                page,
                html.replace(
                                "<head>",
                                "<head><script>window.lines = []; window.onerror = e => lines.push('error: ' + e);"
                                        + " console.error = e => lines.push('error: ' + e);</script>")
                        .replace(
                                "</body>",
                                "<script>const out = (name, value) => lines.push(name + ': ' + value);\n" + script
                                        + "\nconst found = document.createElement('pre'); found.id = 'lines';"
                                        + " found.textContent = lines.join('\\n') + '\\n'; document.body.replaceChildren(found);"
                                        + "</script></body>"));
        Process process = new ProcessBuilder(List.of(
                        browser == null ? "/usr/bin/chromium" : browser,
                        "--headless",
                        "--no-sandbox",
                        "--disable-gpu",
                        "--window-size=1280,800",
                        "--virtual-time-budget=10000",
                        "--dump-dom",
                        page.toUri().toString()))
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        String dom = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertTrue(process.waitFor(60, TimeUnit.SECONDS));
        Matcher lines =
                Pattern.compile("<pre id=\"lines\">(.*?)</pre>", Pattern.DOTALL).matcher(dom);
        assertTrue(lines.find(), "no lines in " + dom.substring(0, Math.min(500, dom.length())));
        return lines.group(1).replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&");
    }
}

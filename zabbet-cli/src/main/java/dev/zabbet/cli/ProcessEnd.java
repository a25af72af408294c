package dev.zabbet.cli;

import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.lang.reflect.Proxy;
import java.util.List;
import java.util.concurrent.atomic.AtomicBoolean;

/**
 * What is done when this process is asked to end, or the program that started it has ended. A shutdown hook alone would be too late:
 * hooks run at the same time as each other, and one of H2's closes its databases.
 */
final class ProcessEnd {
    private static final Logger LOG = System.getLogger("dev.zabbet");
    private static final List<String> SIGNALS = List.of("INT", "TERM", "HUP");

    private ProcessEnd() {}

    /** Runs the work once, and ends the process after it. */
    static void then(Runnable work) {
        AtomicBoolean begun = new AtomicBoolean();
        Runnable once = () -> {
            if (begun.compareAndSet(false, true)) {
                work.run();
            }
        };
        SIGNALS.forEach(signal -> onSignal(signal, once));
        Runtime.getRuntime().addShutdownHook(new Thread(once, "zabbet-end"));
        withParent(once);
    }

    /** Java has no public class for signals; where this one is not, the hook does what it can. */
    private static void onSignal(String name, Runnable once) {
        try {
            Class<?> signal = Class.forName("sun.misc.Signal");
            Class<?> handler = Class.forName("sun.misc.SignalHandler");
            Object own = Proxy.newProxyInstance(
                    ProcessEnd.class.getClassLoader(), new Class<?>[] {handler}, (proxy, method, arguments) -> {
                        if (method.getName().equals("handle")) {
                            end(once);
                        }
                        return method.getName().equals("hashCode") ? name.hashCode() : null;
                    });
            signal.getMethod("handle", signal, handler)
                    .invoke(null, signal.getConstructor(String.class).newInstance(name), own);
        } catch (ReflectiveOperationException | IllegalArgumentException e) {
            LOG.log(Level.DEBUG, "Signal {0} is left to the hook: {1}", name, e);
        }
    }

    private static void end(Runnable once) {
        try {
            once.run();
        } finally {
            Runtime.getRuntime().exit(0);
        }
    }

    private static void withParent(Runnable once) {
        ProcessHandle parent = ProcessHandle.current().parent().orElse(null);
        if (parent == null) {
            return;
        }
        Thread watching = new Thread(
                () -> {
                    parent.onExit().join();
                    end(once);
                },
                "zabbet-parent");
        watching.setDaemon(true);
        watching.start();
    }
}

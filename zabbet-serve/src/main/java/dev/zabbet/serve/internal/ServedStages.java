package dev.zabbet.serve.internal;

import dev.zabbet.serve.ServeSettings;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** The stages that are open, by their numbers. Thread-safe. */
public final class ServedStages implements AutoCloseable {
    private final StageOpener opener;
    private final ServeSettings settings;
    private final Map<String, ServedStage> open = new LinkedHashMap<>();
    private final Map<String, String> ended = new LinkedHashMap<>();
    private int last;
    private int opening;
    private boolean closed;

    public ServedStages(StageOpener opener, ServeSettings settings) {
        this.opener = opener;
        this.settings = settings;
    }

    ServedStage open(long variation) {
        String id = reserve();
        ServedStage stage = new ServedStage(id, variation, opener, settings, this::forget);
        try {
            stage.begin();
            return noted(stage);
        } finally {
            synchronized (this) {
                opening--;
            }
        }
    }

    private synchronized String reserve() {
        if (closed) {
            throw new Problem(503, "The server is being stopped", "No stage is opened any more.");
        }
        if (open.size() + opening >= settings.mostStages()) {
            throw new Problem(
                    503,
                    "Too many stages",
                    "All " + settings.mostStages() + " stages are open or being opened. Close those that are done by"
                            + " DELETE /stages/{id}.");
        }
        opening++;
        return String.valueOf(++last);
    }

    private ServedStage noted(ServedStage stage) {
        synchronized (this) {
            if (!closed) {
                if (!stage.hasEnded()) {
                    open.put(stage.id(), stage);
                }
                return stage;
            }
        }
        stage.close();
        throw new Problem(503, "The server is being stopped", "The stage was closed again.");
    }

    private synchronized void forget(ServedStage stage, String why) {
        open.remove(stage.id());
        ended.put(stage.id(), why);
        if (ended.size() > 100) {
            ended.remove(ended.keySet().iterator().next());
        }
    }

    synchronized ServedStage require(String id) {
        ServedStage stage = open.get(id);
        if (stage == null) {
            String why = ended.get(id);
            throw new Problem(
                    404,
                    "No such stage",
                    why == null
                            ? "There is no stage " + (id.matches("\\d{1,9}") ? id : "of that name")
                                    + ". POST /stages opens one, GET /stages lists them."
                            : "Stage " + id + " was closed: " + why + ". POST /stages opens another.");
        }
        return stage;
    }

    synchronized List<ServedStage> all() {
        return List.copyOf(open.values());
    }

    /** Rewinds and closes all stages; opens no more. */
    @Override
    public void close() {
        List<ServedStage> left;
        synchronized (this) {
            closed = true;
            left = new ArrayList<>(open.values());
        }
        left.forEach(ServedStage::beginToClose);
        left.forEach(ServedStage::close);
    }
}

package org.holtra.scripts;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.graalvm.polyglot.Context;
import org.graalvm.polyglot.Engine;
import org.graalvm.polyglot.EnvironmentAccess;
import org.graalvm.polyglot.HostAccess;
import org.graalvm.polyglot.PolyglotAccess;
import org.graalvm.polyglot.PolyglotException;
import org.graalvm.polyglot.SandboxPolicy;
import org.graalvm.polyglot.Source;
import org.graalvm.polyglot.SourceSection;
import org.graalvm.polyglot.Value;
import org.graalvm.polyglot.io.IOAccess;

/** A world of its own for each script: nothing of the host can be reached from it, and nothing of another script's. */
final class Worlds implements AutoCloseable {

    private static final int MOST_WORLDS = 24;
    private static final int LONGEST_ANSWER = 1 << 20;
    private static final String SCRIPT = "script";
    private static final Pattern UNKNOWN = Pattern.compile("ReferenceError: (\\w+) is not defined");
    private static final String FOREIGN = "Buffer|TextDecoder|TextEncoder|atob|btoa|require|process|window|global"
            + "|setTimeout|setInterval|fetch|XMLHttpRequest|document";

    private record World(Context context, Value caller, Map<String, Value> functions) {}

    private final Engine engine = Engine.newBuilder("js")
            .option("engine.WarnInterpreterOnly", "false")
            .sandbox(SandboxPolicy.TRUSTED)
            .build();
    private final Source prelude = Source.newBuilder("js", prelude(), "prelude").buildLiteral();
    private final Map<Integer, String> sources = new HashMap<>();
    private final Map<Integer, World> worlds = new LinkedHashMap<>(16, 0.75f, true);

    void define(int script, String source) {
        sources.put(script, source);
    }

    /** The first call of all pays for much that later ones do not. */
    void warmUp() {
        String script =
                "function decodeUplink(input) { const data = {}; for (const b of input.bytes) data['x' + b] = b;"
                        + " return { data, warnings: [] }; }";
        try {
            define(-1, script);
            for (int i = 0; i < 20; i++) {
                call(-1, "decodeUplink", "{\"bytes\":[1,2,3],\"fPort\":1,\"recvTime\":\"2026-01-01T00:00:00Z\"}");
            }
        } catch (ScriptFailure e) {
            throw new IllegalStateException(e);
        } finally {
            forget(-1);
        }
    }

    /** Whether a script has run here and its world is kept. */
    boolean knows(int script) {
        return worlds.containsKey(script);
    }

    String call(int script, String function, String input) throws ScriptFailure {
        try {
            World world = world(script);
            Value f = world.functions.get(function);
            if (f == null) {
                f = find(world, function);
                world.functions.put(function, f);
            }
            Value answered = world.caller.execute(f, input);
            if (!answered.isString()) {
                throw new ScriptFailure("its answer is not one; it changes what JSON.stringify goes by");
            }
            String answer = answered.asString();
            if (answer.length() > LONGEST_ANSWER) {
                throw new ScriptFailure("its answer is longer than " + LONGEST_ANSWER + " characters");
            }
            return answer;
        } catch (PolyglotException e) {
            throw failure(e);
        }
    }

    private World world(int script) {
        World world = worlds.get(script);
        if (world == null) {
            if (worlds.size() >= MOST_WORLDS) {
                int oldest = worlds.keySet().iterator().next();
                worlds.remove(oldest).context.close(true);
            }
            Context context = context();
            Value caller = context.eval(prelude);
            try {
                context.eval(
                        Source.newBuilder("js", sources.get(script), SCRIPT).buildLiteral());
            } catch (PolyglotException e) {
                context.close(true);
                throw e;
            }
            world = new World(context, caller, new HashMap<>());
            worlds.put(script, world);
        }
        return world;
    }

    private Context context() {
        return Context.newBuilder("js")
                .engine(engine)
                .allowAllAccess(false)
                .allowHostAccess(HostAccess.NONE)
                .allowHostClassLookup(name -> false)
                .allowIO(IOAccess.NONE)
                .allowPolyglotAccess(PolyglotAccess.NONE)
                .allowEnvironmentAccess(EnvironmentAccess.NONE)
                .allowCreateThread(false)
                .allowCreateProcess(false)
                .allowNativeAccess(false)
                // What follows takes away more; the engine calls these options experimental.
                .allowExperimentalOptions(true)
                .option("js.load", "false")
                .option("js.print", "false")
                .option("js.console", "false")
                .option("js.graal-builtin", "false")
                .option("js.polyglot-builtin", "false")
                .option("js.java-package-globals", "false")
                // A script that waits uses nothing, and would hold up all others.
                .option("js.shared-array-buffer", "false")
                .build();
    }

    private static Value find(World world, String function) throws ScriptFailure {
        Value found = world.context.eval(
                "js", "typeof " + function + " === 'function' ? " + function + " : module.exports." + function);
        if (!found.canExecute()) {
            throw new ScriptFailure("it has no function `" + function + "`");
        }
        return found;
    }

    private static ScriptFailure failure(PolyglotException e) {
        if (e.isInternalError()) {
            return new ScriptFailure("it broke the engine: " + e.getMessage());
        }
        String message = e.getMessage() == null ? "it threw nothing" : e.getMessage();
        Matcher unknown = UNKNOWN.matcher(message);
        if (unknown.matches() && unknown.group(1).matches(FOREIGN)) {
            message += "; " + unknown.group(1) + " belongs to browsers or servers, ECMAScript itself has none";
        }
        return new ScriptFailure(place(e) + message);
    }

    private static String place(PolyglotException e) {
        SourceSection at = e.getSourceLocation();
        if (at == null || !at.getSource().getName().equals(SCRIPT)) {
            for (PolyglotException.StackFrame frame : e.getPolyglotStackTrace()) {
                SourceSection section = frame.isGuestFrame() ? frame.getSourceLocation() : null;
                if (section != null && section.getSource().getName().equals(SCRIPT)) {
                    return "line " + section.getStartLine() + ": ";
                }
            }
            return "";
        }
        return "line " + at.getStartLine() + ", column " + at.getStartColumn() + ": ";
    }

    private void forget(int script) {
        sources.remove(script);
        World world = worlds.remove(script);
        if (world != null) {
            world.context.close(true);
        }
    }

    private static String prelude() {
        try (InputStream file = Worlds.class.getResourceAsStream("prelude.js")) {
            return new String(file.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Override
    public void close() {
        engine.close(true);
    }
}

package org.holtra.core.setup;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.FieldPath;
import org.holtra.core.expression.LookupTable;

/** All inlets, lanes and outlets, compiled: one immutable snapshot, which a message is handled by from its arrival. */
public final class Setup {

    private final int revision;
    private final Things things;
    private final Map<String, Inlet> inlets;
    private final Map<String, Outlet> outlets;
    private final Map<String, Lane> lanes;
    private final Map<String, List<Lane>> lanesByInlet = new HashMap<>();
    private final Map<String, List<Lookout>> lookoutsByInlet = new HashMap<>();

    /**
     * What messages are read, shaped and watched with, and what inlets and outlets share.
     *
     * @param own the inlet of Holtra's own messages; null in the empty setup
     */
    public record Things(
            Map<String, Model> models,
            Map<String, LookupTable> tables,
            Map<String, SharedConnection> connections,
            Inlet own,
            Map<String, Lookout> lookouts) {

        public static final Things NONE = new Things(Map.of(), Map.of(), Map.of(), null, Map.of());
    }

    /** The name of the inlet that Holtra's own messages come by. */
    public static final String OWN_INLET = "holtra";

    /** @param revision counts the setups adopted, from 1; 0 for the empty one before the first */
    public Setup(
            int revision,
            Things things,
            Map<String, Inlet> inlets,
            Map<String, Outlet> outlets,
            Map<String, Lane> lanes) {
        this.revision = revision;
        this.things = things;
        this.inlets = inlets;
        this.outlets = outlets;
        this.lanes = lanes;
        for (Lane lane : lanes.values()) {
            for (String inlet : lane.inlets()) {
                lanesByInlet.computeIfAbsent(inlet, name -> new ArrayList<>()).add(lane);
            }
        }
        for (Lookout lookout : things.lookouts.values()) {
            for (String inlet : lookout.selection().inlets()) {
                lookoutsByInlet
                        .computeIfAbsent(inlet, name -> new ArrayList<>())
                        .add(lookout);
            }
        }
    }

    public static Setup empty() {
        return new Setup(0, Things.NONE, Map.of(), Map.of(), Map.of());
    }

    public Setup withRevision(int number) {
        return new Setup(number, things, inlets, outlets, lanes);
    }

    public int revision() {
        return revision;
    }

    public Map<String, Model> models() {
        return things.models;
    }

    /** The tables that {@code lookup()} looks in. */
    public Map<String, LookupTable> tables() {
        return things.tables;
    }

    /** @param name of a model, or null */
    public Optional<Model> model(String name) {
        return name == null ? Optional.empty() : Optional.ofNullable(things.models.get(name));
    }

    /** The units of the data's fields that a condition reads, by their full names, where all models agree on one. */
    public Map<String, String> units(Condition condition) {
        Map<String, String> units = new LinkedHashMap<>();
        for (FieldPath field : condition.fields()) {
            Set<String> all = units(field);
            if (all.size() == 1) {
                units.put(field.toString(), all.iterator().next());
            }
        }
        return units;
    }

    /** All units that models give a field of the data. */
    public Set<String> units(FieldPath field) {
        Set<String> units = new TreeSet<>();
        if (field.names().getFirst().equals("data")) {
            String name =
                    String.join(".", field.names().subList(1, field.names().size()));
            things.models.values().stream()
                    .map(model -> model.units().get(name))
                    .filter(unit -> unit != null)
                    .forEach(units::add);
        }
        return units;
    }

    /** An inlet that people made, or the one of Holtra's own messages. */
    public Optional<Inlet> inlet(String name) {
        return OWN_INLET.equals(name) ? Optional.ofNullable(things.own) : Optional.ofNullable(inlets.get(name));
    }

    /** What inlets and outlets share. */
    public Map<String, SharedConnection> connections() {
        return things.connections;
    }

    /** Those that people made. */
    public Map<String, Inlet> inlets() {
        return inlets;
    }

    public Map<String, Outlet> outlets() {
        return outlets;
    }

    public Map<String, Lane> lanes() {
        return lanes;
    }

    /** The same with another lane, in place of the one that has its name. */
    public Setup with(Lane lane) {
        Map<String, Lane> others = new LinkedHashMap<>(lanes);
        others.put(lane.name(), lane);
        return new Setup(revision, things, inlets, outlets, others);
    }

    /** The lanes that deliver to an outlet. */
    public List<Lane> lanesTo(String outlet) {
        return lanes.values().stream()
                .filter(lane -> lane.outlet().equals(outlet))
                .toList();
    }

    public Map<String, Lookout> lookouts() {
        return things.lookouts;
    }

    /** The same with another lookout, in place of the one that has its name. */
    public Setup with(Lookout lookout) {
        Map<String, Lookout> others = new LinkedHashMap<>(things.lookouts);
        others.put(lookout.name(), lookout);
        return new Setup(
                revision,
                new Things(things.models, things.tables, things.connections, things.own, others),
                inlets,
                outlets,
                lanes);
    }

    /** Those that look at the messages of an inlet. */
    public List<Lookout> lookoutsOf(String inlet) {
        return lookoutsByInlet.getOrDefault(inlet, List.of());
    }

    public List<Lane> lanesOf(String inlet) {
        return lanesByInlet.getOrDefault(inlet, List.of());
    }
}

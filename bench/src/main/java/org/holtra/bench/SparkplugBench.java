package org.holtra.bench;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.holtra.core.reading.sparkplug.EdgeNode;
import org.holtra.core.reading.sparkplug.EdgeNode.Outcome;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadReader;
import org.holtra.core.reading.sparkplug.PayloadWriter;
import org.holtra.core.reading.sparkplug.SparkplugTopic;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OperationsPerInvocation;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.Warmup;
import org.openjdk.jmh.infra.Blackhole;

/** Metrics a second that are read from payloads and understood by what their birth said. */
@State(Scope.Thread)
@BenchmarkMode(Mode.Throughput)
@OutputTimeUnit(TimeUnit.SECONDS)
@Warmup(iterations = 3, time = 2)
@Measurement(iterations = 5, time = 2)
@Fork(1)
public class SparkplugBench {

    private static final int METRICS = 20;
    private static final SparkplugTopic DATA = new SparkplugTopic("larkmoor", SparkplugTopic.Type.NDATA, "ph-01", null);

    private final EdgeNode node = new EdgeNode();
    private final byte[] payload = PayloadWriter.write(new Payload(1_777_629_600_000L, metrics(false), null));

    public SparkplugBench() {
        node.take(
                new SparkplugTopic("larkmoor", SparkplugTopic.Type.NBIRTH, "ph-01", null),
                new Payload(1_777_629_600_000L, metrics(true), 0L));
    }

    private static List<Metric> metrics(boolean named) {
        List<Metric> metrics = new ArrayList<>();
        for (int i = 0; i < METRICS; i++) {
            metrics.add(new Metric(
                    named ? "Pump/Value " + i : null,
                    (long) i,
                    1_777_629_600_000L,
                    named ? MetricType.DOUBLE : null,
                    false,
                    false,
                    i * 1.25,
                    Map.of()));
        }
        return metrics;
    }

    @Benchmark
    @OperationsPerInvocation(METRICS)
    public void metricsByAlias(Blackhole hole) throws PayloadReader.Unreadable {
        if (node.take(DATA, PayloadReader.read(payload)) instanceof Outcome.Metrics(List<Metric> metrics)) {
            metrics.forEach(metric -> hole.consume(metric.value()));
        } else {
            throw new IllegalStateException("the payload was not understood");
        }
    }
}

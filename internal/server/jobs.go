package server

import (
	"context"
	"database/sql"
	"log/slog"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

// Bounds of background work.
const (
	jobTime     = time.Minute
	feedsEvery  = time.Hour
	jobsAtOnce  = 2
	lookEvery   = 500 * time.Millisecond
	rescueAfter = 90 * time.Second // work that its instance did not end is begun anew
)

// readFeedsJob reads the calendars from outside.
type readFeedsJob struct{}

func (readFeedsJob) Kind() string { return "read-feeds" }

type planWorker struct {
	river.WorkerDefaults[app.PlanJob]
	store *store.Store
	app   *app.App
}

func (w *planWorker) Work(ctx context.Context, job *river.Job[app.PlanJob]) error {
	ctx, err := w.store.Pin(ctx)
	if err != nil {
		return err
	}
	return w.app.MakePlan(ctx, job.Args.Run)
}

type feedsWorker struct {
	river.WorkerDefaults[readFeedsJob]
	app   *app.App
	fetch app.FetchCalendar
}

func (w *feedsWorker) Work(ctx context.Context, _ *river.Job[readFeedsJob]) error {
	return w.app.ReadFeeds(ctx, w.fetch)
}

// reminderWorker tells of dangers again that nobody has taken.
type reminderWorker struct {
	river.WorkerDefaults[app.DangerReminder]
	app *app.App
	now func() time.Time
}

func (w *reminderWorker) Work(ctx context.Context, job *river.Job[app.DangerReminder]) error {
	return w.app.RemindOfDanger(ctx, job.Args, w.now())
}

// jobs does background work that is handed over in the database: every instance takes its share.
type jobs struct {
	client *river.Client[*sql.Tx]
	cancel context.CancelFunc
}

func startJobs(st *store.Store, a *app.App, fetch app.FetchCalendar, now func() time.Time, log *slog.Logger) (*jobs,
	error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, &planWorker{store: st, app: a})
	river.AddWorker(workers, &reminderWorker{app: a, now: now})
	river.AddWorker(workers, &feedsWorker{app: a, fetch: fetch})
	client, err := river.NewClient(riverdatabasesql.New(st.SQL), &river.Config{
		Queues:               map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: jobsAtOnce}},
		Workers:              workers,
		Logger:               log,
		JobTimeout:           jobTime,
		RescueStuckJobsAfter: rescueAfter,
		FetchPollInterval:    lookEvery,
		PeriodicJobs: []*river.PeriodicJob{river.NewPeriodicJob(river.PeriodicInterval(feedsEvery),
			func() (river.JobArgs, *river.InsertOpts) { return readFeedsJob{}, nil }, nil)},
	})
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithCancel(context.Background())
	if err := client.Start(ctx); err != nil {
		cancel()
		return nil, err
	}
	return &jobs{client, cancel}, nil
}

// stop ends background work: what is being done is begun anew by another instance, or later.
func (j *jobs) stop() {
	j.cancel()
	<-j.client.Stopped()
}

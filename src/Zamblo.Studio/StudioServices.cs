using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Farm;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;
using Zamblo.Studio.Views;

namespace Zamblo.Studio;

/// <summary>All of the studio, for whoever gives it a face.</summary>
public static class StudioServices
{
    /// <summary>Adds it. Whoever hosts it brings the queue that runs jobs.</summary>
    /// <param name="services">Of the host.</param>
    /// <param name="folder">Of sounds, pictures, films, and of the database where none is named.</param>
    /// <param name="database">Where rows are kept; null for the folder's own file.</param>
    public static IServiceCollection AddStudio(this IServiceCollection services, DataFolder folder, DatabaseAddress? database = null)
    {
        services.AddSingleton(folder);
        services.AddSingleton(new AssetStore(folder.Assets));
        // At once: what it keeps can be used by whoever asks for a voice.
        services.AddSingleton(new VoiceDesk(folder));
        services.AddSingleton<CharacterStore>();
        services.AddSingleton<PortraitDesk>();
        services.AddSingleton<PlateStore>();
        services.AddSingleton<PlateDesk>();
        services.AddSingleton<PortraitProduction>();
        services.AddSingleton(p =>
            CastLibrary.With(
                p.GetRequiredService<CharacterStore>().Find,
                p.GetRequiredService<CharacterStore>().FindPortrait,
                p.GetRequiredService<CharacterStore>().FindPlate,
                p.GetRequiredService<CharacterStore>().FindDrawing
            )
        );
        services.AddSingleton<IDbContextFactory<ZambloContext>>(new ZambloContexts(database ?? DatabaseAddress.OfFile(folder.Database)));
        services
            .AddSingleton<ProductionStore>()
            .AddSingleton<ErrandBoard>()
            .AddSingleton<SpokenAhead>()
            .AddSingleton<VoiceStore>()
            .AddSingleton<SceneDesk>()
            .AddSingleton<HearingDesk>()
            .AddSingleton<NewsDesk>()
            .AddSingleton<Attention>()
            .AddSingleton<Allowance>()
            .AddSingleton<UploadDesk>()
            .AddSingleton<PictureDesk>()
            .AddSingleton<DataSweep>()
            .AddSingleton<EditRunner>();
        services
            .AddSingleton<JobMeter>()
            .AddSingleton<JobDesk>()
            .AddSingleton<FarmDesk>()
            .AddSingleton<TakeDesk>()
            .AddSingleton<FilmDesk>()
            .AddSingleton<ProductionList>()
            .AddSingleton<ProductionArchive>()
            .AddSingleton<FilmProduction>()
            .AddSingleton<OneTake>()
            .AddSingleton<ReviewDesk>()
            .AddSingleton<MotionLibrary>()
            .AddSingleton<ScriptCasting>()
            .AddSingleton<ScriptDesk>()
            .AddSingleton<LanguageVersions>()
            .AddSingleton<DubDesk>()
            .AddSingleton<SceneViews>();
        services.AddSingleton<Func<IEnumerable<IJobHandler>>>(p => p.GetServices<IJobHandler>);
        foreach (var type in typeof(StudioServices).Assembly.GetTypes().Where(t => t is { IsClass: true, IsAbstract: false }))
        {
            if (type.IsAssignableTo(typeof(IJobHandler)))
                services.AddSingleton(typeof(IJobHandler), type);
            var edits = type.GetInterfaces().Where(i => i.IsGenericType && i.GetGenericTypeDefinition() == typeof(IEditHandler<>)).ToArray();
            if (edits.Length == 0)
                continue;
            services.AddSingleton(type);
            foreach (var edit in edits)
                services.AddSingleton(edit, p => p.GetRequiredService(type));
        }
        return services;
    }
}
